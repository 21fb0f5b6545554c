/** What was recorded of a scene in a browser. */
export interface BrowserRecording {
  frameTimesMs: Float64Array;
  /** What the display does by itself, from idle frames before the scene. */
  displayHz: number;
  /** The smallest step of the page's clock. */
  clockStepMs: number;
  isolated: boolean;
}

const WARM_UP_S = 1;
const IDLE_FRAMES = 45;

/** The smallest step that the page's clock makes. */
function clockStep(): number {
  let smallest = Number.POSITIVE_INFINITY;
  const until = performance.now() + 30;
  let last = performance.now();
  while (last < until) {
    const now = performance.now();
    if (now > last) smallest = Math.min(smallest, now - last);
    last = now;
  }
  return smallest;
}

const nextFrame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve));

/** The display's own rate: the median interval of frames in which nothing is drawn. */
async function displayRate(): Promise<number> {
  const intervals: number[] = [];
  let last = await nextFrame();
  for (let i = 0; i < IDLE_FRAMES; i += 1) {
    const now = await nextFrame();
    intervals.push(now - last);
    last = now;
  }
  return 1000 / (intervals.sort((a, b) => a - b)[IDLE_FRAMES >> 1] as number);
}

/** Draws one moment of the scene: shapes on crossing paths, so that every frame is new and its cost follows their number. */
function draw(context: CanvasRenderingContext2D, width: number, height: number, shapes: number, atS: number, ink: string, accent: string): void {
  context.clearRect(0, 0, width, height);
  for (let i = 0; i < shapes; i += 1) {
    const phase = i * 2.399963; // the golden angle spreads them evenly
    const x = width * (0.5 + 0.48 * Math.sin(atS * (0.3 + (i % 7) * 0.07) + phase));
    const y = height * (0.5 + 0.46 * Math.cos(atS * (0.4 + (i % 5) * 0.09) + phase * 1.7));
    context.strokeStyle = i % 9 === 0 ? accent : ink;
    context.globalAlpha = 0.25 + 0.5 * ((i % 10) / 10);
    context.beginPath();
    context.arc(x, y, 3 + (i % 11), 0, 2 * Math.PI);
    context.stroke();
  }
  context.globalAlpha = 1;
}

/**
 * Plays the scene for some seconds after a second of warm-up and records the interval of every frame, by the browser's own
 * frame clock. A page that is hidden meanwhile draws no frames: the recording is refused with a sentence.
 */
export async function recordScene(
  canvas: HTMLCanvasElement,
  options: { seconds: number; shapes: number; signal: AbortSignal; onTick: (leftS: number) => void },
): Promise<BrowserRecording | { sentence: string }> {
  const context = canvas.getContext("2d");
  if (!context) return { sentence: "This browser gives no canvas to draw on." };
  const ratio = window.devicePixelRatio || 1;
  const [width, height] = [canvas.clientWidth, canvas.clientHeight];
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  const style = getComputedStyle(document.documentElement);
  const [ink, accent] = ["--chakra-colors-quiet", "--chakra-colors-accent-solid"].map((name) => style.getPropertyValue(name).trim());
  const clockStepMs = clockStep();
  const displayHz = await displayRate();
  const frames: number[] = [];
  let hidden = document.hidden;
  const onHidden = () => {
    hidden ||= document.hidden;
  };
  document.addEventListener("visibilitychange", onHidden);
  const started = await nextFrame();
  let last = started;
  let told = Number.POSITIVE_INFINITY;
  try {
    for (;;) {
      const now = await nextFrame();
      const atS = (now - started) / 1000;
      draw(context, width, height, options.shapes, atS, ink ?? "", accent ?? "");
      if (options.signal.aborted) return { sentence: "Stopped; nothing was recorded." };
      if (hidden) return { sentence: "The page was hidden while it recorded, and a hidden page draws no frames. Keep it in sight and record again." };
      if (atS > WARM_UP_S && now > last) frames.push(Math.round((now - last) * 1e4) / 1e4);
      last = now;
      const left = Math.ceil(options.seconds + WARM_UP_S - atS);
      if (left !== told) {
        told = left;
        options.onTick(left);
      }
      if (atS >= options.seconds + WARM_UP_S) break;
    }
  } finally {
    document.removeEventListener("visibilitychange", onHidden);
  }
  if (frames.length < 30) return { sentence: `Only ${frames.length} frames came in ${options.seconds} s; draw fewer shapes.` };
  return { frameTimesMs: Float64Array.from(frames), displayHz, clockStepMs, isolated: crossOriginIsolated };
}

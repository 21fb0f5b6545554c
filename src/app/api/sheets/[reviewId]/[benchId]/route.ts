import { logUnexpected } from "@/app/answer";
import { realDeps } from "@/server/deps";
import { type LiveMessage, liveRecording, sheetKey, watchSheet } from "@/server/liveSheets";
import { loadSheetEvents } from "@/server/loadSheet";

export const dynamic = "force-dynamic";

/** A line now and then keeps proxies and sleeping phones from taking the silence for an end. */
const BREATH_MS = 15_000;

/** The live link of a run sheet, as server-sent events: everything so far first, then what happens. */
export async function GET(request: Request, { params }: { params: Promise<{ reviewId: string; benchId: string }> }): Promise<Response> {
  try {
    const { reviewId, benchId } = await params;
    const [review, bench] = [decodeURIComponent(reviewId), decodeURIComponent(benchId)];
    const plan = Number(new URL(request.url).searchParams.get("plan"));
    if (!Number.isInteger(plan)) return Response.json({ sentence: "Name the plan's number." }, { status: 422 });
    const key = sheetKey(review, plan, bench);
    const encoder = new TextEncoder();
    let tidyUp = () => {};
    const body = new ReadableStream<Uint8Array>({
      async start(controller) {
        const send = (message: unknown) => controller.enqueue(encoder.encode(`data: ${JSON.stringify(message)}\n\n`));
        // Watch before reading, so that nothing falls between the two.
        const early: LiveMessage[] = [];
        let greeted = false;
        const stop = watchSheet(key, (message) => (greeted ? send(message) : early.push(message)));
        const breath = setInterval(() => controller.enqueue(encoder.encode(": still here\n\n")), BREATH_MS);
        tidyUp = () => {
          stop();
          clearInterval(breath);
        };
        request.signal.addEventListener("abort", tidyUp);
        const recording = liveRecording(key);
        const messages = recording ? [...recording.messages] : [];
        const events = await loadSheetEvents(realDeps().database, review, plan, bench);
        send({ type: "hello", serverMs: Date.now(), events, recording: recording ? { stepKey: recording.stepKey, messages } : null });
        greeted = true;
        // What the recording said meanwhile comes from its own list, each message once.
        for (const message of recording?.messages.slice(messages.length) ?? []) send({ type: "instrument", stepKey: recording?.stepKey, message });
        for (const message of early) if (message.type !== "instrument") send(message);
      },
      cancel() {
        tidyUp();
      },
    });
    return new Response(body, { headers: { "content-type": "text/event-stream; charset=utf-8", "cache-control": "no-store, no-transform" } });
  } catch (error) {
    return Response.json({ sentence: logUnexpected(error) }, { status: 500 });
  }
}

import type { SensorLog } from "@/core/capture";
import type { TraceSeries } from "@/db/packTraces";

/** Channel name and unit of a sensor column: `cpu_load_ratio` is cpu_load in ratio. */
function splitChannel(name: string): { channel: string; unit: string } {
  const cut = name.lastIndexOf("_");
  return { channel: name.slice(0, cut), unit: name.slice(cut + 1) };
}

/** A run's logs as the series that are stored. */
export function seriesOf(runId: string, { frames, sensors }: { frames: Float64Array | null; sensors: SensorLog | null }): TraceSeries[] {
  const series: TraceSeries[] = [];
  if (frames) series.push({ runId, log: "frames", position: 0, channel: "frame_time", unit: "ms", values: frames });
  if (sensors) {
    series.push({ runId, log: "sensors", position: 0, channel: "t", unit: "s", values: sensors.timeS });
    sensors.channels.forEach(({ name, values }, i) => {
      series.push({ runId, log: "sensors", position: i + 1, ...splitChannel(name), values });
    });
  }
  return series;
}

/** One run's logs from its stored series. */
export function logsOf(series: readonly TraceSeries[]): { frames: Float64Array | null; sensors: SensorLog | null } {
  const frames = series.find(({ log }) => log === "frames")?.values ?? null;
  const [time, ...channels] = series.filter(({ log }) => log === "sensors");
  const sensors = time && { timeS: time.values, channels: channels.map(({ channel, unit, values }) => ({ name: `${channel}_${unit}`, values })) };
  return { frames, sensors: sensors ?? null };
}

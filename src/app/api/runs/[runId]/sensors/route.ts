import { logUnexpected } from "@/app/answer";
import { realDeps } from "@/server/deps";
import { loadSensors } from "@/server/loadRun";

/** A run's sensor log: times in seconds and each channel with its unit at the end of its name; null where nothing was read. */
export async function GET(_request: Request, { params }: { params: Promise<{ runId: string }> }): Promise<Response> {
  try {
    const sensors = await loadSensors(realDeps(), decodeURIComponent((await params).runId));
    if (!sensors) return Response.json({ sentence: "This run has no sensor log." }, { status: 404 });
    // JSON knows no NaN: what is not known goes as null.
    return Response.json({ timeS: [...sensors.timeS], channels: sensors.channels.map(({ name, values }) => ({ name, values: [...values] })) });
  } catch (error) {
    return Response.json({ sentence: logUnexpected(error) }, { status: 500 });
  }
}

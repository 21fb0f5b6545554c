import { logUnexpected } from "@/app/answer";
import { realDeps } from "@/server/deps";
import { loadFrames } from "@/server/loadRun";

/** A run's frame times as little-endian doubles, in milliseconds. */
export async function GET(_request: Request, { params }: { params: Promise<{ runId: string }> }): Promise<Response> {
  try {
    const frames = await loadFrames(realDeps(), decodeURIComponent((await params).runId));
    if (!frames) return Response.json({ sentence: "This run has no frame log." }, { status: 404 });
    return new Response(new Uint8Array(frames.buffer as ArrayBuffer, frames.byteOffset, frames.byteLength), {
      headers: { "content-type": "application/octet-stream" },
    });
  } catch (error) {
    return Response.json({ sentence: logUnexpected(error) }, { status: 500 });
  }
}

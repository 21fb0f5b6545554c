import { existsSync } from "node:fs";
import { z } from "zod";
import { currentActor } from "@/app/actor";
import { isForeign, logUnexpected } from "@/app/answer";
import { ProblemList } from "@/core/exchange";
import { realDeps } from "@/server/deps";
import { importPackage, previewImport } from "@/server/importPackage";
import { openZip } from "@/server/packageSource";
import { explain, type UseCaseProblem } from "@/server/problems";
import { dropUpload, uploadPath } from "@/server/uploads";

const Order = z.object({
  do: z.enum(["preview", "import"]),
  label: z.string().max(200).default("package"),
  choices: z.record(z.string(), z.enum(["keep-lab", "take-package"])).default({}),
});

interface Context {
  params: Promise<{ uploadId: string }>;
}

/**
 * Previews or imports an upload. The answer is a stream of lines of JSON: progress as it goes, then one result.
 * Closing the connection cancels, and nothing is imported.
 */
export async function POST(request: Request, { params }: Context): Promise<Response> {
  const refuse = (status: number, sentence: string) => Response.json({ kind: "problem", sentence }, { status });
  if (isForeign(request)) return refuse(403, "Requests from other sites are refused.");
  const deps = realDeps();
  const { uploadId } = await params;
  const file = uploadPath(deps, uploadId);
  const order = Order.safeParse(await request.json().catch(() => undefined));
  if (!file || !existsSync(file) || !order.success) return refuse(404, "This upload is not here any more; drop the package again.");
  const actor = await currentActor();
  if (!actor) return refuse(401, explain({ kind: "nobody" }).sentence);

  const encoder = new TextEncoder();
  const abort = new AbortController();
  request.signal.addEventListener("abort", () => abort.abort());
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = (line: unknown) => {
        if (!abort.signal.aborted) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`));
      };
      const problems = new ProblemList();
      const tell = (problem: UseCaseProblem) => send({ kind: "problem", sentence: explain(problem).sentence, problem });
      try {
        const source = await openZip(file, problems);
        const work = { source, problems, signal: abort.signal, onProgress: (progress: unknown) => send({ kind: "progress", progress }) };
        try {
          if (order.data.do === "preview") {
            const preview = await previewImport(deps, work);
            if (preview.ok) send({ kind: "preview", preview: preview.value });
            else tell(preview.problem);
          } else {
            const outcome = await importPackage(deps, actor, { ...work, label: order.data.label, choices: order.data.choices });
            if (outcome.ok) {
              send({ kind: "imported", outcome: outcome.value });
              await dropUpload(deps, uploadId);
            } else tell(outcome.problem);
          }
        } finally {
          await source.close();
        }
      } catch (error) {
        send({ kind: "problem", sentence: logUnexpected(error) });
      }
      if (!abort.signal.aborted) controller.close();
    },
    cancel() {
      abort.abort();
    },
  });
  return new Response(stream, { headers: { "content-type": "application/x-ndjson", "cache-control": "no-store" } });
}

/** Forgets an upload that is not to be imported. */
export async function DELETE(request: Request, { params }: Context): Promise<Response> {
  if (isForeign(request)) return Response.json({}, { status: 403 });
  await dropUpload(realDeps(), (await params).uploadId);
  return Response.json({ ok: true });
}

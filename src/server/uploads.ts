import { createWriteStream } from "node:fs";
import { mkdir, readdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { fail, ok, type Result } from "@/core/result";
import type { UseCaseProblem } from "./problems";
import type { Deps } from "./useCase";

/** A zip may not be larger than this; what it unpacks to is bounded apart. */
const MOST_BYTES = 4 * 2 ** 30;
const KEPT_MS = 24 * 3_600_000;

const folderOf = (deps: Deps) => path.join(deps.dataDir, "uploads");

/** The file of an upload; undefined for an id that is none. */
export function uploadPath(deps: Deps, uploadId: string): string | undefined {
  return /^[0-9a-f-]{36}$/.test(uploadId) ? path.join(folderOf(deps), `${uploadId}.zip`) : undefined;
}

/** Streams an upload to disk in bounded memory; uploads left over from yesterday go. Nothing is kept of one that breaks off. */
export async function storeUpload(deps: Deps, uploadId: string, body: ReadableStream<Uint8Array>): Promise<Result<{ uploadId: string }, UseCaseProblem>> {
  const file = uploadPath(deps, uploadId);
  if (!file) return fail({ kind: "invalid", reason: "The upload has no valid id." });
  await mkdir(folderOf(deps), { recursive: true });
  for (const name of await readdir(folderOf(deps))) {
    const old = path.join(folderOf(deps), name);
    if (deps.now().getTime() - (await stat(old)).mtimeMs > KEPT_MS) await rm(old, { force: true });
  }
  let bytes = 0;
  const bound = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      done(bytes > MOST_BYTES ? new RangeError("too large") : null, chunk);
    },
  });
  try {
    await pipeline(Readable.fromWeb(body as Parameters<typeof Readable.fromWeb>[0]), bound, createWriteStream(file));
    return ok({ uploadId });
  } catch (error) {
    await rm(file, { force: true });
    return fail({
      kind: "invalid",
      reason: error instanceof RangeError ? "The package has more than 4 GB; import it in parts." : "The upload broke off; nothing was kept. Try again.",
    });
  }
}

/** Forgets an upload. */
export async function dropUpload(deps: Deps, uploadId: string): Promise<void> {
  const file = uploadPath(deps, uploadId);
  if (file) await rm(file, { force: true });
}

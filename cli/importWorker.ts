import { open } from "node:fs/promises";
import { parentPort } from "node:worker_threads";
import { type ColumnUse, LogIntake, type LogShape, type RunPlace, type TakenLog } from "@/core/intake";
import { type PreparedRun, prepareRun } from "@/server/prepareRun";

/** One run to read: its place, and the files it comes from. */
export interface ReadOrder {
  index: number;
  place: RunPlace;
  parts: { file: string; path: string; stamp: string; shape: LogShape; uses: ColumnUse[] }[];
}

/** A run ready to be stored, or the file that could not be read and why. */
export type ReadReply = { index: number; bytes: number } & ({ prepared: PreparedRun } | { refused: { path: string; stamp: string; reason: string }[] });

const PIECE = 4 * 2 ** 20;
/** Files are read one after the other into the same memory: nothing of a piece is kept once it is read. */
const piece = new Uint8Array(PIECE);

/** Reads a file in bounded pieces; a sentence where it cannot be read, or was written to meanwhile. */
async function readLog(part: ReadOrder["parts"][number]): Promise<{ log: TakenLog; bytes: number } | { reason: string }> {
  try {
    const handle = await open(part.file);
    try {
      const before = await handle.stat();
      const intake = new LogIntake(part.shape, part.uses);
      let bytes = 0;
      for (;;) {
        const { bytesRead } = await handle.read(piece, 0, piece.length, null);
        if (bytesRead === 0) break;
        bytes += bytesRead;
        if (!intake.push(piece.subarray(0, bytesRead))) break;
      }
      const after = await handle.stat();
      if (after.size !== before.size || after.mtimeMs !== before.mtimeMs)
        return { reason: `${part.path} changed while it was read; wait until it is written, and import it again` };
      const taken = intake.finish();
      if (taken.ok) return { log: taken.value, bytes };
      const { line, column, reason } = taken.problem;
      return { reason: `${part.path}${line > 0 ? `, line ${line}` : ""}${column ? `, column “${column.slice(0, 80)}”` : ""}: ${reason}` };
    } finally {
      await handle.close();
    }
  } catch (error) {
    return { reason: `${part.path} cannot be read: ${(error as Error).message}` };
  }
}

parentPort?.on("message", async ({ index, place, parts }: ReadOrder) => {
  const reply = (message: ReadReply, transfer: ArrayBuffer[] = []) => parentPort?.postMessage(message, transfer);
  const log: TakenLog = { frameTimesMs: null, sensors: null };
  let bytes = 0;
  for (const part of parts) {
    const read = await readLog(part);
    if ("reason" in read) return reply({ index, bytes, refused: parts.map(({ path, stamp }) => ({ path, stamp, reason: read.reason })) });
    bytes += read.bytes;
    log.frameTimesMs ??= read.log.frameTimesMs;
    log.sensors ??= read.log.sensors;
  }
  const prepared = prepareRun(place, log);
  reply(
    { index, bytes, prepared },
    prepared.packed.map(({ bytes: packed }) => packed.buffer as ArrayBuffer),
  );
});

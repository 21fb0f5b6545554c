import { Unzip, UnzipInflate, UnzipPassThrough } from "fflate";

/** How much a zip of logs may hold: one file never above 1 GB, nothing that unpacks without end. */
export const ZIP_LIMITS = { fileBytes: 2 ** 30, totalBytes: 4 * 2 ** 30, files: 100_000, ratio: 250 };

/** Packed bytes below which no ratio is judged: small files of one repeated line pack very well. */
const JUDGED_FROM = 1e7;

/** The files of a zip, each with its path in it, and those that were left out with why. */
export interface Unzipped {
  files: { path: string; file: File }[];
  left: { path: string; reason: string }[];
}

/**
 * Unpacks a zip of logs as it streams in; each file is handed on as the browser keeps files, outside of the worker's own memory.
 * Paths that leave the zip, files that are too large and zips that unpack without end are left out, each with its reason.
 */
export async function unzipLogs(zip: File, path: string, limits = ZIP_LIMITS): Promise<Unzipped> {
  const files: Unzipped["files"] = [];
  const left: Unzipped["left"] = [];
  const stem = path.replace(/\.zip$/i, "");
  let total = 0;
  let packed = 0;
  let trouble: string | undefined;
  const unzip = new Unzip((entry) => {
    const inside = `${stem}/${entry.name}`;
    if (entry.name.endsWith("/")) return;
    if (/(^|[\\/])\.\.([\\/]|$)|^[\\/]|^[a-z]:/i.test(entry.name)) {
      left.push({ path: inside, reason: "its path leads out of the zip" });
      return;
    }
    if (files.length >= limits.files) {
      trouble = `it holds more than ${limits.files} files; take it in by parts`;
      return;
    }
    const chunks: BlobPart[] = [];
    let size = 0;
    let given = false;
    const leave = (reason: string) => {
      if (!given) left.push({ path: inside, reason });
      given = true;
      chunks.length = 0;
      entry.terminate();
    };
    entry.ondata = (error, chunk, final) => {
      if (given) return;
      if (error) return leave("it cannot be unpacked; zip it again without a password");
      size += chunk.length;
      total += chunk.length;
      if (size > limits.fileBytes) return leave("it has more than 1 GB; the limit for one file is 1 GB");
      if (total > limits.totalBytes || (total > JUDGED_FROM && total > packed * limits.ratio)) {
        trouble = "it unpacks to far more than its size; take it in by parts, or drop the folder instead";
        return leave("the zip unpacks to far more than its size");
      }
      if (chunk.length > 0) chunks.push(chunk.slice() as BlobPart);
      if (!final) return;
      given = true;
      files.push({ path: inside, file: new File(chunks, entry.name.split("/").at(-1) ?? entry.name, { lastModified: zip.lastModified }) });
    };
    entry.start();
  });
  unzip.register(UnzipInflate);
  unzip.register(UnzipPassThrough);
  const reader = zip.stream().getReader();
  let first = true;
  try {
    for (;;) {
      const { value, done } = await reader.read();
      if (trouble) break;
      if (done) break;
      if (first && (value[0] !== 0x50 || value[1] !== 0x4b)) {
        trouble = "it is no zip file";
        break;
      }
      first = false;
      packed += value.length;
      unzip.push(value);
    }
    if (!trouble) unzip.push(new Uint8Array(0), true);
  } catch {
    trouble ??= "it is cut off or damaged";
  }
  await reader.cancel().catch(() => {});
  if (trouble) left.push({ path, reason: trouble });
  else if (files.length === 0 && left.length === 0) left.push({ path, reason: "it holds no file, or is cut off" });
  return { files: trouble ? [] : files, left };
}

import { Zip, ZipDeflate, ZipPassThrough } from "fflate";

/** Files above this are refused by name before anything is read. */
const MOST_BYTES = 2 ** 30;

/** A file with its path inside what was dropped. */
export interface DroppedFile {
  path: string;
  file: File;
}

async function walk(entry: FileSystemEntry, prefix: string): Promise<DroppedFile[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    return [{ path: `${prefix}${entry.name}`, file }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: DroppedFile[] = [];
  for (;;) {
    // Directories are handed out in batches; an empty one ends them.
    const batch = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (batch.length === 0) return found;
    for (const one of batch) found.push(...(await walk(one, `${prefix}${entry.name}/`)));
  }
}

/** All files of a drop: a zip as it is, or every file below the folders dropped. */
export async function filesOfDrop(items: DataTransferItemList): Promise<DroppedFile[]> {
  // All of them at once, before anything is waited for: the browser empties the list when the event ends.
  const dropped = [...items].map((item) => ({ entry: item.webkitGetAsEntry(), file: item.getAsFile() }));
  const found = dropped.map(({ entry, file }) => (entry ? walk(entry, "") : file ? [{ path: file.name, file }] : []));
  return (await Promise.all(found)).flat();
}

/** Files chosen through a dialog, with their path below the chosen folder. */
export function filesOfInput(list: FileList): DroppedFile[] {
  return [...list].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
}

/**
 * One zip to send: the dropped zip itself, or the dropped folder zipped here, file by file, so that memory holds little more
 * than the compressed package. Errors: a sentence naming the file that is too large, or why there is nothing to send.
 */
export async function zipToSend(
  files: DroppedFile[],
  onProgress: (done: number, of: number) => void,
): Promise<{ blob: Blob; label: string } | { sentence: string }> {
  const tooLarge = files.find(({ file }) => file.size > MOST_BYTES);
  if (tooLarge) return { sentence: `${tooLarge.path} has ${(tooLarge.file.size / 2 ** 30).toFixed(2)} GB; the limit for one file is 1 GB.` };
  const [only] = files;
  if (!only) return { sentence: "Nothing was dropped; choose a folder or a zip." };
  if (files.length === 1 && /\.zip$/i.test(only.path)) return { blob: only.file, label: only.path };
  const chunks: BlobPart[] = [];
  const zip = new Zip((error, chunk) => {
    if (error) throw error;
    chunks.push(chunk as BlobPart);
  });
  for (const [i, { path, file }] of files.entries()) {
    const entry = file.size > 512 ? new ZipDeflate(path, { level: 1 }) : new ZipPassThrough(path);
    zip.add(entry);
    entry.push(new Uint8Array(await file.arrayBuffer()), true);
    onProgress(i + 1, files.length);
  }
  zip.end();
  return { blob: new Blob(chunks, { type: "application/zip" }), label: only.path.split("/")[0] ?? "package" };
}

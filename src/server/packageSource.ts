import { open, readdir, readFile, stat } from "node:fs/promises";
import path from "node:path";
import { crc32 } from "node:zlib";
import yauzl from "yauzl";
import type { ProblemList } from "@/core/exchange";

/** The files of a package, wherever they lie. Names use `/` and are relative to the folder of `datapackage.json`. */
export interface PackageSource {
  names: string[];
  sizeOf(name: string): number;
  read(name: string): Promise<Uint8Array>;
  close(): Promise<void>;
}

/** How much a package may hold. One file never more than 1 GB; the whole is bounded against zips that unpack without end. */
export interface PackageLimits {
  fileBytes: number;
  totalBytes: number;
  files: number;
}

export const DEFAULT_LIMITS: PackageLimits = { fileBytes: 2 ** 30, totalBytes: 16 * 2 ** 30, files: 100_000 };

const gigabytes = (bytes: number) => (bytes >= 1e8 ? `${(bytes / 2 ** 30).toFixed(2)} GB` : `${(bytes / 1000).toFixed(0)} kB`);

/** Refuses what is too large, by name, before any of it is read. */
function checkSizes(files: Map<string, number>, limits: PackageLimits, problems: ProblemList): void {
  let total = 0;
  for (const [name, bytes] of files) {
    total += bytes;
    if (bytes > limits.fileBytes) problems.add(name, null, null, `the file has ${gigabytes(bytes)}; the limit for one file is ${gigabytes(limits.fileBytes)}`);
  }
  if (total > limits.totalBytes) {
    problems.add("package", null, null, `it unpacks to ${gigabytes(total)}; the limit is ${gigabytes(limits.totalBytes)}. Import it in parts`);
  }
  if (files.size > limits.files) problems.add("package", null, null, `it holds ${files.size} files; the limit is ${limits.files}. Import it in parts`);
}

/** A package may sit one folder deep, as archivers like to put it. Returns that folder's prefix, or "". */
function commonPrefix(names: string[]): string {
  if (names.includes("datapackage.json")) return "";
  const nested = names.filter((name) => /^[^/]+\/datapackage\.json$/.test(name));
  return nested.length === 1 ? (nested[0] as string).replace("datapackage.json", "") : "";
}

function relative(files: Map<string, number>): { names: string[]; real: (name: string) => string } {
  const prefix = commonPrefix([...files.keys()]);
  const names = [...files.keys()].filter((name) => name.startsWith(prefix)).map((name) => name.slice(prefix.length));
  return { names: names.sort(), real: (name) => `${prefix}${name}` };
}

/** A package in a folder on this machine. */
export async function openFolder(folder: string, problems: ProblemList, limits = DEFAULT_LIMITS): Promise<PackageSource> {
  const files = new Map<string, number>();
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const full = path.join(entry.parentPath, entry.name);
    files.set(path.relative(folder, full).split(path.sep).join("/"), (await stat(full)).size);
  }
  checkSizes(files, limits, problems);
  const { names, real } = relative(files);
  return {
    names,
    sizeOf: (name) => files.get(real(name)) ?? 0,
    read: async (name) => new Uint8Array(await readFile(path.join(folder, real(name)))),
    close: async () => {},
  };
}

/** Opens a zip's table of contents; undefined (with a problem) where it is no whole zip or names leave its folder. */
async function listZip(file: string, problems: ProblemList, limits: PackageLimits) {
  const handle = await open(file, "r");
  const first = Buffer.alloc(4);
  await handle.read(first, 0, 4, 0);
  await handle.close();
  if (first.readUInt32LE(0) !== 0x04034b50 && first.readUInt32LE(0) !== 0x06054b50) {
    problems.add("package", null, null, "this is not a zip file; drop a folder or a zip that holds a datapackage.json");
    return undefined;
  }
  try {
    const zip = await yauzl.openPromise(file, { lazyEntries: true, autoClose: false, strictFileNames: true });
    const entries = new Map<string, yauzl.Entry>();
    try {
      for await (const entry of zip.eachEntry()) {
        if (entry.fileName.endsWith("/")) continue;
        if (entries.has(entry.fileName)) problems.add(entry.fileName, null, null, "the zip holds this file twice; keep one");
        if (entry.isEncrypted()) problems.add(entry.fileName, null, null, "the file is encrypted; zip it without a password");
        entries.set(entry.fileName, entry);
        if (entries.size > limits.files) break;
      }
    } catch (error) {
      zip.close();
      throw error;
    }
    return { zip, entries };
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    const outside = /relative path|absolute path|invalid characters/i.exec(reason);
    const name = /: (.+)$/.exec(reason)?.[1];
    problems.add(
      outside && name ? name : "package",
      null,
      null,
      outside
        ? "the name leads outside the package; names are relative and have no .. in them"
        : `the zip cannot be read (${reason}); is it cut off? Make it again`,
    );
    return undefined;
  }
}

/** A zipped package in a file on this machine; entries are read one at a time. */
export async function openZip(file: string, problems: ProblemList, limits = DEFAULT_LIMITS): Promise<PackageSource> {
  const listed = await listZip(file, problems, limits);
  if (!listed) return { names: [], sizeOf: () => 0, read: async () => new Uint8Array(), close: async () => {} };
  const { zip, entries } = listed;
  const sizes = new Map([...entries].map(([name, entry]) => [name, entry.uncompressedSize]));
  checkSizes(sizes, limits, problems);
  const { names, real } = relative(sizes);
  return {
    names,
    sizeOf: (name) => sizes.get(real(name)) ?? 0,
    // Sizes were checked against the table of contents, and the reader stops an entry that unpacks to more than it says.
    read: async (name) => {
      const entry = entries.get(real(name)) as yauzl.Entry;
      const stream = await zip.openReadStreamPromise(entry);
      const bytes = new Uint8Array(entry.uncompressedSize);
      let length = 0;
      for await (const chunk of stream) {
        bytes.set(chunk as Uint8Array, length);
        length += (chunk as Uint8Array).length;
      }
      if (crc32(bytes) !== entry.crc32) throw new Error("its checksum does not fit its content");
      return bytes;
    },
    close: async () => zip.close(),
  };
}

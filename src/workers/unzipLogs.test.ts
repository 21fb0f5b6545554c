import { zipSync } from "fflate";
import { describe, expect, it } from "vitest";
import { unzipLogs, ZIP_LIMITS } from "./unzipLogs";

const text = (content: string) => new TextEncoder().encode(content);
const zipOf = (files: Record<string, Uint8Array>, level: 0 | 6 = 6) => new File([zipSync(files, { level }) as BlobPart], "evening.zip", { lastModified: 7 });

describe("unzipLogs", () => {
  it("hands on every file under the name of its zip, packed or not, bit for bit", async () => {
    for (const level of [0, 6] as const) {
      const { files, left } = await unzipLogs(zipOf({ "a/run1.csv": text("frame\n10\n11\n"), "b.csv": text("x\n") }, level), "in/evening.zip");
      expect(left).toEqual([]);
      expect(files.map(({ path }) => path)).toEqual(["in/evening/a/run1.csv", "in/evening/b.csv"]);
      expect(await files[0]?.file.text()).toBe("frame\n10\n11\n");
      expect(files[0]?.file.lastModified).toBe(7);
    }
  });

  it("leaves out paths that lead out of the zip, and says so", async () => {
    const { files, left } = await unzipLogs(zipOf({ "../../up.csv": text("1\n"), "/root.csv": text("1\n"), "good.csv": text("1\n") }), "z.zip");
    expect(files.map(({ path }) => path)).toEqual(["z/good.csv"]);
    expect(left.map(({ reason }) => reason)).toEqual(["its path leads out of the zip", "its path leads out of the zip"]);
  });

  it("refuses a zip that unpacks without end, one file too large, and too many files", async () => {
    const bomb = await unzipLogs(zipOf({ "zeros.csv": new Uint8Array(64 * 2 ** 20) }), "bomb.zip");
    expect(bomb.files).toEqual([]);
    expect(bomb.left.map(({ reason }) => reason).join()).toContain("unpacks to far more than its size");
    const large = await unzipLogs(zipOf({ "a.csv": text("12345678901"), "b.csv": text("1") }), "l.zip", { ...ZIP_LIMITS, fileBytes: 10 });
    expect(large.files.map(({ path }) => path)).toEqual(["l/b.csv"]);
    expect(large.left[0]?.reason).toContain("more than 1 GB");
    const many = await unzipLogs(zipOf({ a: text("1"), b: text("2"), c: text("3") }), "m.zip", { ...ZIP_LIMITS, files: 2 });
    expect(many).toMatchObject({ files: [], left: [{ path: "m.zip", reason: expect.stringContaining("more than 2 files") }] });
  });

  it("says what is no zip, is empty or cut off", async () => {
    const reasons = async (bytes: Uint8Array) => (await unzipLogs(new File([bytes as BlobPart], "x.zip"), "x.zip")).left.map(({ reason }) => reason);
    expect(await reasons(text("frame time\n10\n"))).toEqual(["it is no zip file"]);
    expect(await reasons(new Uint8Array(0))).toEqual([expect.stringMatching(/no file|cut off/)]);
    const whole = zipSync({ "a.csv": text("1\n".repeat(5000)) }, { level: 0 });
    const cut = await unzipLogs(new File([whole.slice(0, 3000) as BlobPart], "x.zip"), "x.zip");
    expect(cut.files).toEqual([]);
    expect(cut.left.length).toBeGreaterThan(0);
  });
});

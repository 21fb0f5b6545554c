import { mkdtemp, readdir, readFile, rm, utimes, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { beginRecording, endRecording, type LiveMessage, liveRecording, sheetKey, tellSheet, watchSheet } from "@/server/liveSheets";
import { dropUpload, storeUpload, uploadPath } from "@/server/uploads";
import type { Deps } from "@/server/useCase";

const ID = "0f3c1a52-7c1e-4d0a-9a54-3a1f0b7a9d11";
let dataDir: string;
const deps = () => ({ dataDir, now: () => new Date("2026-11-20T12:00:00Z"), today: "2026-11-20" }) as Deps;
beforeEach(async () => {
  dataDir = await mkdtemp(path.join(tmpdir(), "parvex-uploads-"));
});
afterEach(() => rm(dataDir, { recursive: true, force: true }));

const streamOf = (...pieces: (Uint8Array | Error)[]) =>
  new ReadableStream<Uint8Array>({
    pull(controller) {
      const piece = pieces.shift();
      if (piece === undefined) controller.close();
      else if (piece instanceof Error) controller.error(piece);
      else controller.enqueue(piece);
    },
  });

describe("an upload", () => {
  it("is kept piece by piece under its id, and forgotten when it is dropped", async () => {
    expect(await storeUpload(deps(), ID, streamOf(Uint8Array.of(80, 75), Uint8Array.of(3, 4)))).toEqual({ ok: true, value: { uploadId: ID } });
    const file = uploadPath(deps(), ID) as string;
    expect([...(await readFile(file))]).toEqual([80, 75, 3, 4]);
    await dropUpload(deps(), ID);
    expect(await readdir(path.dirname(file))).toEqual([]);
    await dropUpload(deps(), ID);
  });

  it("leaves nothing behind when it breaks off", async () => {
    const broken = await storeUpload(deps(), ID, streamOf(Uint8Array.of(1, 2, 3), new Error("gone")));
    expect(broken).toMatchObject({ ok: false, problem: { reason: "The upload broke off; nothing was kept. Try again." } });
    expect(await readdir(path.join(dataDir, "uploads"))).toEqual([]);
  });

  it("cannot be led out of its folder by its id", async () => {
    for (const id of ["", "../secret", "..", `${ID}/../../x`, "0F3C1A52-7C1E-4D0A-9A54-3A1F0B7A9D11", `${ID}\n`]) {
      expect(uploadPath(deps(), id), id).toBeUndefined();
      expect(await storeUpload(deps(), id, streamOf(Uint8Array.of(1)))).toMatchObject({ ok: false });
    }
  });

  it("clears away what was left over for more than a day, and nothing younger", async () => {
    const folder = path.join(dataDir, "uploads");
    await storeUpload(deps(), ID, streamOf(Uint8Array.of(1)));
    const at = (hours: number) => new Date(deps().now().getTime() - hours * 3_600_000);
    for (const [name, hours] of [
      ["old.zip", 25],
      ["young.zip", 23],
    ] as const) {
      await writeFile(path.join(folder, name), "x");
      await utimes(path.join(folder, name), at(hours), at(hours));
    }
    const other = ID.replace(/^0/, "1");
    await storeUpload(deps(), other, streamOf(Uint8Array.of(1)));
    expect((await readdir(folder)).sort()).toEqual([`${ID}.zip`, `${other}.zip`, "young.zip"].sort());
  });
});

describe("a sheet that is watched", () => {
  it("tells everybody who watches it, nobody else, and nobody who has left", () => {
    const [here, there] = [sheetKey("duel", 1, "oak"), sheetKey("duel", 1, "elm")];
    const heard: [string, LiveMessage["type"]][] = [];
    const leave = watchSheet(here, ({ type }) => heard.push(["first", type]));
    const leaveToo = watchSheet(here, ({ type }) => heard.push(["second", type]));
    const elsewhere = watchSheet(there, ({ type }) => heard.push(["elsewhere", type]));
    tellSheet(here, { type: "recording", stepKey: "s1", on: true });
    leave();
    tellSheet(here, { type: "recording", stepKey: "s1", on: false });
    expect(heard).toEqual([
      ["first", "recording"],
      ["second", "recording"],
      ["second", "recording"],
    ]);
    leaveToo();
    elsewhere();
    tellSheet(here, { type: "recording", stepKey: "s1", on: true });
    expect(heard).toHaveLength(3);
  });

  it("knows the one recording that runs, until it ends", () => {
    const key = sheetKey("duel", 2, "oak");
    expect(liveRecording(key)).toBeUndefined();
    const recording = { stepKey: "s1", startedMs: 5, messages: [], stop: () => {} };
    beginRecording(key, recording);
    expect(liveRecording(key)).toBe(recording);
    expect(liveRecording(sheetKey("duel", 3, "oak"))).toBeUndefined();
    endRecording(key);
    expect(liveRecording(key)).toBeUndefined();
  });
});

"use client";

import { Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { type ReactNode, useCallback, useState } from "react";
import { type ColumnUse, judgeUses, type LogKind, proposeUses, shapeFingerprint } from "@/core/intake";
import type { ReviewSetup, ReviewTest } from "@/core/report";
import type { IntakeFile, RunOrder } from "@/workers/intake.worker";
import { lookAt, useIntake } from "../intake/useIntake";
import { filesOfDrop } from "../lab/gatherPackage";
import { useReview } from "../review/ReviewContext";

interface ReadyLog {
  file: IntakeFile;
  part: RunOrder["parts"][number];
  kind: LogKind;
}

/** The column uses that the lab remembers, by the shape of a file. */
async function rememberedUses(): Promise<Map<string, ColumnUse[]>> {
  const response = await fetch("/api/intakes");
  if (!response.ok) return new Map();
  const { profiles } = (await response.json()) as { profiles: { fingerprint: string; uses: ColumnUse[] }[] };
  return new Map(profiles.map(({ fingerprint, uses }) => [fingerprint, uses]));
}

/** The logs of a drop as runs: a frame log and a sensor log of one run belong together, in the order of their names. */
function pairLogs(logs: readonly ReadyLog[]): ReadyLog[][] | string {
  const sorted = [...logs].sort((a, b) => a.file.path.localeCompare(b.file.path, "en", { numeric: true }));
  const frames = sorted.filter(({ kind }) => kind !== "sensors");
  const sensors = sorted.filter(({ kind }) => kind === "sensors");
  if (sensors.length === 0 || frames.length === 0) return sorted.map((log) => [log]);
  if (sensors.length !== frames.length)
    return `${frames.length} frame logs and ${sensors.length} sensor logs do not pair up; take them in under Take in, where each is given its run.`;
  return frames.map((log, i) => [log, sensors[i] as ReadyLog]);
}

/** Logs dropped on a cell become its next runs; what cannot be read says why and is filed nowhere. */
export function useCellDrop() {
  const { model, actions } = useReview();
  const router = useRouter();
  const { run } = useIntake();
  const [over, setOver] = useState<string | undefined>(undefined);
  const [says, setSays] = useState<{ text: string; doubt: boolean } | undefined>(undefined);

  const drop = useCallback(
    async (items: DataTransferItemList, setup: ReviewSetup, test: ReviewTest) => {
      setOver(undefined);
      const refuse = (text: string) => setSays({ text, doubt: true });
      try {
        const files = (await filesOfDrop(items)).map(({ path, file }): IntakeFile => ({ path, file, stamp: `${file.size}-${file.lastModified}` }));
        if (files.length === 0) return refuse("Nothing was dropped; drop one or more logs.");
        setSays({ text: `Looking at ${files.length} ${files.length === 1 ? "file" : "files"} …`, doubt: false });
        const [looked, remembered] = await Promise.all([lookAt(files, () => {}), rememberedUses()]);
        const [left] = looked.left;
        if (left) return refuse(`${left.path}: ${left.reason}. Nothing was filed.`);
        const rowsOf = new Map(looked.fresh.map((detected) => [shapeFingerprint(detected.shape), detected]));
        const logs: ReadyLog[] = [];
        for (const file of files) {
          const shape = looked.shapeOf.get(file.path);
          const detected = shape && rowsOf.get(shapeFingerprint(shape));
          if (!shape || !detected) return refuse(`${file.path} has no rows that can be read. Nothing was filed.`);
          const uses = remembered.get(shapeFingerprint(shape)) ?? proposeUses(shape, detected.rows);
          const kind = judgeUses(uses);
          if (!kind.ok) return refuse(`${file.path}: ${kind.problem.reason}. Say what its columns are under Take in. Nothing was filed.`);
          logs.push({ file, part: { ...file, shape, uses }, kind: kind.value });
        }
        const paired = pairLogs(logs);
        if (typeof paired === "string") return refuse(paired);
        const taken = model.runs.filter((one) => one.setupId === setup.id && one.testKey === test.key).map(({ number }) => number);
        const first = Math.max(0, ...taken) + 1;
        const orders = paired.map(
          (parts, i): RunOrder => ({
            place: {
              setupId: setup.id,
              testKey: test.key,
              number: first + i,
              files: parts.map(({ file }) => ({ path: file.path, stamp: file.stamp })),
            },
            parts: parts.map(({ part }) => part),
          }),
        );
        const response = await fetch("/api/intakes", {
          method: "POST",
          body: JSON.stringify({
            label: `${setup.label}, ${test.name}, from run ${first}`.slice(0, 200),
            files: orders.flatMap(({ place }) => place.files.map((file) => ({ ...file, setupId: setup.id, testKey: test.key, number: place.number }))),
          }),
        });
        const opened = (await response.json()) as { ok: true; intakeId: string } | { ok: false; sentence: string };
        if (!opened.ok) return refuse(opened.sentence);
        setSays({ text: `Filing ${orders.length} ${orders.length === 1 ? "run" : "runs"} …`, doubt: false });
        const { outcomes } = await run(opened.intakeId, orders);
        const ended = await actions.endIntake({ intakeId: opened.intakeId, state: "done" });
        const bad = outcomes.find(({ state }) => state === "refused");
        if (!ended.ok || bad) refuse(bad?.reason ?? (ended.ok ? "" : ended.sentence));
        else {
          const last = first + orders.length - 1;
          setSays({ text: `Filed as ${first === last ? `run ${first}` : `runs ${first} to ${last}`} of ${setup.label}, ${test.name}.`, doubt: false });
        }
        router.refresh();
      } catch (error) {
        refuse(`The files could not be filed (${(error as Error).message}).`);
      }
    },
    [model, actions, router, run],
  );
  const notice: ReactNode = says && (
    <Text role="status" mb="2" color={says.doubt ? "doubt" : "quiet"}>
      {says.text}
    </Text>
  );
  return { over, setOver, drop, notice };
}

"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { useMemo, useRef, useState } from "react";
import {
  assignPaths,
  type ColumnUse,
  clashesOf,
  type DetectedShape,
  type IntakeModel,
  judgeUses,
  type LogShape,
  NO_MEANINGS,
  type OpenIntake,
  type PathPattern,
  proposePattern,
  proposeUses,
  shapeFingerprint,
} from "@/core/intake";
import { figure } from "@/core/report";
import type { IntakeFile, RunOrder } from "@/workers/intake.worker";
import { TickRuler } from "../charts/TickRuler";
import { SelectField, TextField, Trouble } from "../forms/fields";
import { type DroppedFile, filesOfDrop, filesOfInput } from "../lab/gatherPackage";
import type { ActionAnswer } from "../review/ReviewContext";
import { type AssignedLine, AssignmentTable, type Correction } from "./AssignmentTable";
import { readCorrections, writeCorrections } from "./corrections";
import { IntakeMemory } from "./IntakeMemory";
import { ShapePreview } from "./ShapePreview";
import { lookAt, unpackZips, useIntake } from "./useIntake";

export interface IntakeActions {
  endIntake: (input: unknown) => Promise<ActionAnswer>;
  savePattern: (input: unknown) => Promise<ActionAnswer>;
  saveProfile: (input: unknown) => Promise<ActionAnswer>;
}

/** Whether all files of an open import have been read: its tab was closed before it could end. */
const isWhole = ({ files, settled, refused }: OpenIntake) => settled + refused.length === files;

/** What was dropped, looked at. */
interface Dropped {
  label: string;
  files: IntakeFile[];
  shapeOf: Map<string, LogShape>;
  detected: DetectedShape[];
  left: { path: string; reason: string }[];
}

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

/** Takes in logs of any shape, one or thousands: what their columns are, where each belongs, then the reading of them. */
export function IntakePage({ model, actions }: { model: IntakeModel; actions: IntakeActions }) {
  const router = useRouter();
  const [dropped, setDropped] = useState<Dropped | undefined>(undefined);
  const [uses, setUses] = useState<Map<string, ColumnUse[]>>(new Map());
  const [pattern, setPattern] = useState<PathPattern>({ template: "", meanings: NO_MEANINGS });
  const [looking, setLooking] = useState<{ done: number; of: number } | undefined>(undefined);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const [corrections, setCorrections] = useState<ReadonlyMap<string, Correction>[]>([new Map()]);
  const [over, setOver] = useState(false);
  const [intakeId, setIntakeId] = useState<string | undefined>(undefined);
  const [checking, setChecking] = useState(false);
  const folderInput = useRef<HTMLInputElement>(null);
  const fileInput = useRef<HTMLInputElement>(null);
  const { progress, run, pause, goOn, stop } = useIntake();

  const take = async (gather: () => Promise<DroppedFile[]>) => {
    setTrouble(undefined);
    try {
      const gathered = (await gather()).filter(({ path }) => !path.split("/").at(-1)?.startsWith("."));
      if (gathered.length === 0) return setTrouble("Nothing was dropped; choose a folder or some logs.");
      if (gathered.some(({ path }) => path.endsWith("datapackage.json")))
        return setTrouble("This is a whole package of a lab; drop it on the lab's home page, where packages are imported.");
      const unpacked = await unpackZips(gathered);
      const files = unpacked.files.map(({ path, file }): IntakeFile => ({ path, file, stamp: `${file.size}-${file.lastModified}` }));
      setLooking({ done: 0, of: files.length });
      const looked = await lookAt(files, (done) => setLooking({ done, of: files.length }));
      const paths = files.map(({ path }) => path).filter((path) => looked.shapeOf.has(path));
      const remembered = model.patterns.find((one) => assignPaths(paths.slice(0, 200), one, model.names).every(({ trouble: why }) => why === null));
      setPattern(remembered ?? proposePattern(paths, model.names));
      setUses(
        new Map(
          looked.fresh.map(({ shape, rows }) => {
            const fingerprint = shapeFingerprint(shape);
            return [fingerprint, model.profiles.find((profile) => profile.fingerprint === fingerprint)?.uses ?? proposeUses(shape, rows)];
          }),
        ),
      );
      const label = (gathered[0]?.path.split("/")[0] ?? "logs").replace(/\.zip$/i, "");
      // Corrections made before a tab was closed still hold for the same files.
      setCorrections([readCorrections(label)]);
      setDropped({ label, files, shapeOf: looked.shapeOf, detected: looked.fresh, left: [...unpacked.left, ...looked.left] });
    } catch (error) {
      setTrouble(`The files could not be looked at (${(error as Error).message}).`);
    } finally {
      setLooking(undefined);
    }
  };

  const corrected = corrections.at(-1) as ReadonlyMap<string, Correction>;
  const lines = useMemo((): AssignedLine[] => {
    if (!dropped || pattern.template.trim() === "") return [];
    const known = dropped.files.flatMap(({ path }) => {
      const shape = dropped.shapeOf.get(path);
      const kind = shape && judgeUses(uses.get(shapeFingerprint(shape)) ?? []);
      return kind ? [{ path, kind: kind.ok ? kind.value : ("frames" as const), columns: kind.ok ? null : kind.problem.reason }] : [];
    });
    const assigned = assignPaths(
      known.map(({ path }) => path),
      pattern,
      model.names,
    );
    const placed = assigned.map((one, i) => {
      const own = corrected.get(one.path);
      const place = { ...one, ...own, kind: known[i]?.kind ?? ("frames" as const) };
      if (own?.leftOut) return { ...place, setupId: null, testKey: null, number: null, trouble: "left out by you" };
      if (!own) return place;
      // A person's word takes the pattern's place; only what is still open is trouble.
      const open =
        place.setupId === null ? "no setup is given" : place.testKey === null ? "no test is given" : place.number === null ? "no run is given" : null;
      return { ...place, trouble: open, numberedByOrder: own.number === undefined && place.numberedByOrder };
    });
    const clashes = clashesOf(placed);
    return placed.map(({ path, setupId, testKey, number, numberedByOrder, kind, trouble: why }, i) => ({
      path,
      setupId,
      testKey,
      number,
      kind,
      byOrder: numberedByOrder,
      corrected: corrected.has(path),
      trouble: why ?? known[i]?.columns ?? (clashes.has(path) ? `it claims the same run as ${clashes.get(path)?.slice(0, 2).join(", ")}` : null),
    }));
  }, [dropped, pattern, uses, model, corrected]);
  const ready = lines.filter((line) => line.trouble === null);
  const unknown = useMemo(() => {
    const found = new Map<string, { piece: "setup" | "test"; value: string; files: number }>();
    if (!dropped) return [];
    for (const { pieces, setupId, testKey } of assignPaths(
      lines.map(({ path }) => path),
      pattern,
      model.names,
    )) {
      for (const [piece, value, known] of [
        ["setup", pieces.setup, setupId],
        ["test", pieces.test, testKey],
      ] as const) {
        if (!value || known) continue;
        const key = `${piece}:${value}`;
        found.set(key, { piece, value, files: (found.get(key)?.files ?? 0) + 1 });
      }
    }
    return [...found.values()].slice(0, 40);
  }, [dropped, lines, pattern, model]);

  const mean = (piece: "setup" | "test", value: string, to: string) =>
    setPattern({ ...pattern, meanings: { ...pattern.meanings, [piece]: { ...pattern.meanings[piece], [value.toLowerCase()]: to } } });

  /** Ends an import; the checks run over what it brought. */
  const end = async (id: string, state: "done" | "cancelled") => {
    const ended = await actions.endIntake({ intakeId: id, state });
    if (!ended.ok) setTrouble(ended.sentence);
    router.refresh();
  };

  const start = async () => {
    if (!dropped) return;
    setTrouble(undefined);
    const fileOf = new Map(dropped.files.map((file) => [file.path, file]));
    for (const { shape } of dropped.detected) {
      await actions.saveProfile({
        name: `${shape.columns.length} columns, ${shape.columns[0]?.name ?? ""} …`.slice(0, 120),
        shape,
        uses: uses.get(shapeFingerprint(shape)) ?? [],
      });
    }
    await actions.savePattern(pattern);
    const response = await fetch("/api/intakes", {
      method: "POST",
      body: JSON.stringify({
        label: dropped.label,
        files: ready.map(({ path, setupId, testKey, number }) => ({ path, stamp: fileOf.get(path)?.stamp ?? "", setupId, testKey, number })),
      }),
    }).catch(() => undefined);
    const opened = response ? ((await response.json()) as { ok: true; intakeId: string; settled: string[] } | { ok: false; sentence: string }) : undefined;
    if (!opened?.ok) return setTrouble(opened?.sentence ?? "The server does not answer; try again.");
    setIntakeId(opened.intakeId);
    const settled = new Set(opened.settled);
    const orders = new Map<string, RunOrder>();
    for (const line of ready) {
      if (settled.has(line.path)) continue;
      const file = fileOf.get(line.path);
      const shape = dropped.shapeOf.get(line.path);
      if (!file || !shape) continue;
      const key = `${line.setupId}\n${line.testKey}\n${line.number}`;
      const order = orders.get(key) ?? {
        place: { setupId: line.setupId as string, testKey: line.testKey as string, number: line.number as number, files: [] },
        parts: [],
      };
      order.place.files.push({ path: file.path, stamp: file.stamp });
      order.parts.push({ ...file, shape, uses: uses.get(shapeFingerprint(shape)) ?? [] });
      orders.set(key, order);
    }
    setChecking(true);
    const { ended: how } = await run(opened.intakeId, [...orders.values()]);
    await end(opened.intakeId, how === "done" ? "done" : "cancelled");
    setChecking(false);
  };

  const running = progress && progress.state !== "ended";
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em" mb="3">
        Take in logs
      </Text>
      <TickRuler steps={12} minor={5} />
      {model.open.map((open) => (
        <Flex key={open.id} mt="3" gap="4" align="baseline" wrap="wrap">
          <Text color="doubt">
            The import of “{open.label}” was left open: {open.settled} of {open.files} files are in
            {open.refused.length > 0 ? `, ${open.refused.length} refused` : ""}.{" "}
            {isWhole(open) ? "Only the checks have not run over them." : "Drop the same folder again and it goes on."}
          </Text>
          {open.id !== intakeId && (
            <Button size="2xs" variant="outline" onClick={() => void end(open.id, isWhole(open) ? "done" : "cancelled")}>
              {isWhole(open) ? "Run the checks" : "Leave it at that"}
            </Button>
          )}
        </Flex>
      ))}
      {!running && (
        <Flex
          mt="4"
          py="5"
          px="4"
          gap="4"
          align="center"
          wrap="wrap"
          border="1px dashed"
          borderColor={over ? "accent.solid" : "tick"}
          bg={over ? "accentWash" : undefined}
          onDragOver={(event) => {
            event.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => setOver(false)}
          onDrop={(event) => {
            event.preventDefault();
            setOver(false);
            const { items } = event.dataTransfer;
            void take(() => filesOfDrop(items));
          }}
        >
          <Text>Drop a folder or a zip of logs here, or some files: frame times or sensors, delimited text of any shape.</Text>
          <Button size="sm" variant="outline" onClick={() => folderInput.current?.click()}>
            Choose a folder
          </Button>
          <Button size="sm" variant="outline" onClick={() => fileInput.current?.click()}>
            Choose files
          </Button>
          <input
            ref={folderInput}
            type="file"
            hidden
            aria-label="Folder of logs"
            {...{ webkitdirectory: "" }}
            onChange={(event) => {
              const list = event.currentTarget.files;
              if (list) void take(async () => filesOfInput(list));
            }}
          />
          <input
            ref={fileInput}
            type="file"
            hidden
            multiple
            aria-label="Logs"
            onChange={(event) => {
              const list = event.currentTarget.files;
              if (list) void take(async () => filesOfInput(list));
            }}
          />
        </Flex>
      )}
      {looking && (
        <Text role="status" mt="3">
          Looking at {figure(looking.done, 0)} of {figure(looking.of, 0)} files …
        </Text>
      )}
      <Trouble text={trouble} />
      {!dropped && !progress && !looking && <IntakeMemory model={model} />}
      {progress && (
        <Box mt="4" role="status">
          <Text textStyle="title">
            {progress.state === "ended" ? (checking ? "Checking" : "Taken in") : progress.state === "paused" ? "Paused" : "Reading"}: {figure(progress.done, 0)}{" "}
            of {figure(progress.of, 0)} runs
          </Text>
          <Box h="6px" bg="wash" mt="1" maxW="600px">
            <Box h="6px" bg="accent.solid" w={`${progress.of > 0 ? (100 * progress.done) / progress.of : 100}%`} />
          </Box>
          <Text color="quiet" textStyle="figure">
            {figure(progress.bytes / 1e6, 0)} MB, {figure(progress.done / Math.max(0.1, progress.seconds), 0)} runs a second
            {progress.state === "running" && progress.done > 0 ? `, ${clock(((progress.of - progress.done) * progress.seconds) / progress.done)} left` : ""};{" "}
            {progress.outcomes.filter(({ state }) => state === "stored").length} files stored,{" "}
            {progress.outcomes.filter(({ state }) => state === "present").length} there before,{" "}
            {progress.outcomes.filter(({ state }) => state === "refused").length} refused
          </Text>
          {progress.trouble && (
            <Text role="alert" color="doubt">
              It stands still: {progress.trouble} What was stored is kept.
            </Text>
          )}
          {running && (
            <Flex gap="3" mt="2">
              {progress.state === "paused" ? (
                <Button size="sm" onClick={goOn}>
                  Go on
                </Button>
              ) : (
                <Button size="sm" variant="outline" onClick={() => pause()}>
                  Pause
                </Button>
              )}
              <Button size="sm" variant="outline" onClick={stop}>
                Cancel the rest
              </Button>
            </Flex>
          )}
          {progress.outcomes
            .filter(({ state }) => state === "refused")
            .slice(0, 100)
            .map(({ path, reason }) => (
              <Text key={path} color="doubt" mt="1">
                {reason?.startsWith(path) ? reason : `${path}: ${reason}`}
              </Text>
            ))}
        </Box>
      )}
      {dropped && !progress && (
        <>
          <Text as="h2" textStyle="title" mt="6">
            What the columns are
          </Text>
          {dropped.detected.map((detected) => {
            const fingerprint = shapeFingerprint(detected.shape);
            return (
              <ShapePreview
                key={fingerprint}
                detected={detected}
                uses={uses.get(fingerprint) ?? []}
                files={[...dropped.shapeOf.values()].filter((shape) => shapeFingerprint(shape) === fingerprint).length}
                onChange={(next) => setUses(new Map(uses).set(fingerprint, next))}
              />
            );
          })}
          <Text as="h2" textStyle="title" mt="6" mb="2">
            Where each belongs
          </Text>
          <TextField
            label="Pattern of the paths: {setup}, {test}, {resolution}, {run} name the pieces, {*} is anything"
            value={pattern.template}
            onChange={(template) => setPattern({ ...pattern, template })}
          />
          {unknown.length > 0 && (
            <Grid templateColumns={{ base: "1fr", md: "repeat(3, 1fr)" }} gap="4" mt="3">
              {unknown.map(({ piece, value, files }) => (
                <SelectField
                  key={`${piece}:${value}`}
                  label={`“${value}” (${files} ${files === 1 ? "file" : "files"}) is the ${piece}`}
                  value={pattern.meanings[piece][value.toLowerCase()] ?? ""}
                  options={[
                    { value: "", label: "not known" },
                    ...(piece === "setup"
                      ? model.names.setups.map(({ id, label }) => ({ value: id, label }))
                      : [...new Map(model.names.tests.map(({ workloadId, workloadName }) => [workloadId, workloadName]))].map(([id, label]) => ({
                          value: id,
                          label,
                        }))),
                  ]}
                  onChange={(to) => mean(piece, value, to)}
                />
              ))}
            </Grid>
          )}
          <AssignmentTable
            lines={lines}
            left={dropped.left}
            model={model}
            canUndo={corrections.length > 1}
            onUndo={() => {
              const before = corrections.slice(0, -1);
              setCorrections(before);
              writeCorrections(dropped.label, before.at(-1) ?? new Map());
            }}
            onCorrect={(changes) => {
              const next = new Map(corrected);
              for (const [path, change] of changes) next.set(path, { ...next.get(path), ...change });
              setCorrections([...corrections, next]);
              writeCorrections(dropped.label, next);
            }}
          />
          <Button mt="4" size="sm" disabled={ready.length === 0} onClick={() => void start()}>
            Take in {figure(ready.length, 0)} files
          </Button>
        </>
      )}
    </Box>
  );
}

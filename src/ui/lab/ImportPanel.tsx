"use client";

import { Box, Button, chakra, Flex, Link, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { useRef, useState } from "react";
import { figure } from "@/core/report";
import { type DroppedFile, filesOfDrop, filesOfInput, zipToSend } from "./gatherPackage";

interface Conflict {
  id: string;
  resource: string;
  key: string;
  differences: { column: string; lab: string; package: string }[];
  canReplace: boolean;
}

interface Preview {
  name: string | null;
  resources: { resource: string; added: number; same: number; conflicts: number }[];
  logs: { files: number; frames: number; bytes: number };
  conflicts: Conflict[];
  leftAlone: string[];
}

interface Mistake {
  file: string;
  line: number | null;
  column: string | null;
  reason: string;
}

type Line =
  | { kind: "progress"; progress: { phase: string; done: number; of: number } }
  | { kind: "preview"; preview: Preview }
  | { kind: "imported"; outcome: { added: number; replaced: number; logs: number; frames: number } }
  | { kind: "problem"; sentence: string; problem?: { kind: string; problems?: Mistake[]; total?: number } };

type State =
  | { step: "idle" }
  | { step: "working"; text: string; done: number; of: number; since: number }
  | { step: "preview"; uploadId: string; label: string; preview: Preview }
  | { step: "refused"; sentence: string; mistakes: Mistake[]; total: number }
  | { step: "done"; text: string };

const PHASES: Record<string, string> = { tables: "reading tables", logs: "reading logs", checks: "checking" };

/** Reads the lines of an answer as they come. */
async function* linesOf(response: Response): AsyncGenerator<Line> {
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  while (reader) {
    const { value, done } = await reader.read();
    rest += value ?? "";
    const lines = rest.split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) if (line) yield JSON.parse(line) as Line;
    if (done) {
      if (rest) yield JSON.parse(rest) as Line;
      return;
    }
  }
}

/** The way in: drop a folder or a zip, see what it would add, resolve conflicts, import all or nothing. And the way out. */
export function ImportPanel({ canExport }: { canExport: boolean }) {
  const router = useRouter();
  const [state, setState] = useState<State>({ step: "idle" });
  const [over, setOver] = useState(false);
  const [choices, setChoices] = useState<Record<string, "keep-lab" | "take-package">>({});
  const folderInput = useRef<HTMLInputElement>(null);
  const zipInput = useRef<HTMLInputElement>(null);
  const abort = useRef<AbortController | undefined>(undefined);

  const refuse = (sentence: string, mistakes: Mistake[] = [], total = mistakes.length) => setState({ step: "refused", sentence, mistakes, total });
  const working = (text: string, done = 0, of = 0) =>
    setState((now) => ({ step: "working", text, done, of, since: now.step === "working" && now.text === text ? now.since : Date.now() }));

  const send = async (uploadId: string, label: string, order: "preview" | "import") => {
    const response = await fetch(`/api/imports/${uploadId}`, {
      method: "POST",
      body: JSON.stringify({ do: order, label, choices }),
      signal: abort.current?.signal ?? null,
    });
    for await (const line of linesOf(response)) {
      if (line.kind === "progress")
        working(
          `${order === "preview" ? "looking through it: " : "importing: "}${PHASES[line.progress.phase] ?? line.progress.phase}`,
          line.progress.done,
          line.progress.of,
        );
      else if (line.kind === "problem") return refuse(line.sentence, line.problem?.problems, line.problem?.total);
      else if (line.kind === "preview") setState({ step: "preview", uploadId, label, preview: line.preview });
      else {
        const { added, replaced, logs, frames } = line.outcome;
        setState({
          step: "done",
          text:
            added + replaced === 0
              ? "The lab had all of it already; nothing changed."
              : `Imported ${figure(added, 0)} rows and ${figure(logs, 0)} logs with ${figure(frames, 0)} frames${replaced ? `; ${replaced} rows replaced` : ""}.`,
        });
        router.refresh();
      }
    }
  };

  const guarded = async (work: () => Promise<void>) => {
    abort.current = new AbortController();
    try {
      await work();
    } catch (error) {
      if (abort.current?.signal.aborted) setState({ step: "idle" });
      else refuse(`The connection broke (${error instanceof Error ? error.message : "unknown"}); nothing was imported. Try again.`);
    }
  };

  const take = (gather: () => Promise<DroppedFile[]>) =>
    guarded(async () => {
      setChoices({});
      working("gathering files");
      const packed = await zipToSend(await gather(), (done, of) => working("packing", done, of));
      if ("sentence" in packed) return refuse(packed.sentence);
      working("sending");
      const response = await fetch("/api/imports", { method: "POST", body: packed.blob, signal: abort.current?.signal ?? null });
      const answer = (await response.json()) as { ok: true; uploadId: string } | { ok: false; sentence: string };
      if (!answer.ok) return refuse(answer.sentence);
      await send(answer.uploadId, packed.label, "preview");
    });

  const forget = (uploadId: string) => {
    void fetch(`/api/imports/${uploadId}`, { method: "DELETE" });
    setState({ step: "idle" });
  };

  const open = state.step === "preview" ? state.preview.conflicts.filter(({ id }) => !choices[id]) : [];
  const chooseAll = (conflicts: Conflict[], choice: "keep-lab" | "take-package") =>
    setChoices(Object.fromEntries(conflicts.map(({ id, canReplace }) => [id, choice === "take-package" && !canReplace ? "keep-lab" : choice])));

  return (
    <Box
      mt="10"
      as="section"
      aria-label="Import and export"
      onDragOver={(event: React.DragEvent) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event: React.DragEvent) => {
        event.preventDefault();
        setOver(false);
        const { items } = event.dataTransfer;
        void take(() => filesOfDrop(items));
      }}
    >
      <Flex justify="space-between" align="baseline" mb="2" wrap="wrap" gap="3">
        <Text as="h2" textStyle="title">
          In and out
        </Text>
        {canExport && (
          <Link href="/api/export" color="accent.fg" download>
            Export the whole lab
          </Link>
        )}
      </Flex>
      <Box border="1px dashed" borderColor={over ? "accent.solid" : "tick"} bg={over ? "accentWash" : undefined} px="5" py="5">
        {state.step !== "working" && state.step !== "preview" && (
          <Flex gap="4" align="center" wrap="wrap">
            <Text>Drop a package here: a folder or a zip with a datapackage.json.</Text>
            <Button size="sm" variant="outline" onClick={() => folderInput.current?.click()}>
              Choose a folder
            </Button>
            <Button size="sm" variant="outline" onClick={() => zipInput.current?.click()}>
              Choose a zip
            </Button>
            <input
              type="file"
              ref={zipInput}
              hidden
              accept=".zip"
              data-testid="zip-input"
              onChange={(event) => event.target.files && void take(async () => filesOfInput(event.target.files as FileList))}
            />
            {/* A folder is chosen by an attribute that React's types do not know. */}
            <input
              type="file"
              ref={folderInput}
              hidden
              multiple
              data-testid="folder-input"
              {...{ webkitdirectory: "" }}
              onChange={(event) => event.target.files && void take(async () => filesOfInput(event.target.files as FileList))}
            />
          </Flex>
        )}
        {state.step === "working" && (
          <Flex gap="5" align="center" role="status">
            <Text flex="1">
              {state.text}
              {state.of > 0 && `, ${figure(state.done, 0)} of ${figure(state.of, 0)}`}
              {state.of > 0 && state.done > 0 && state.done < state.of && <TimeLeft since={state.since} done={state.done} of={state.of} />}
            </Text>
            <Button size="sm" variant="outline" onClick={() => abort.current?.abort()}>
              Cancel
            </Button>
          </Flex>
        )}
        {state.step === "done" && (
          <Text role="status" mt="3" fontWeight="500">
            {state.text}
          </Text>
        )}
        {state.step === "refused" && (
          <Box role="alert" mt="3">
            <Text color="doubt" fontWeight="600">
              {state.sentence}
            </Text>
            {state.mistakes.length > 0 && (
              <chakra.table
                mt="2"
                w="full"
                css={{
                  "& th, & td": {
                    textAlign: "left",
                    padding: "3px 16px 3px 0",
                    borderTop: "1px solid var(--chakra-colors-hairline)",
                    verticalAlign: "top",
                    fontWeight: 400,
                  },
                }}
              >
                <thead>
                  <tr>
                    <th>file</th>
                    <th>line</th>
                    <th>column</th>
                    <th>what is wrong and what to do</th>
                  </tr>
                </thead>
                <tbody>
                  {state.mistakes.map((mistake, i) => (
                    <tr key={`${mistake.file}-${mistake.line}-${mistake.column}-${i}`}>
                      <td>{mistake.file}</td>
                      <td>{mistake.line ?? ""}</td>
                      <td>{mistake.column ?? ""}</td>
                      <td>{mistake.reason}</td>
                    </tr>
                  ))}
                </tbody>
              </chakra.table>
            )}
            {state.total > state.mistakes.length && <Text mt="2">… and {state.total - state.mistakes.length} more.</Text>}
          </Box>
        )}
        {state.step === "preview" && (
          <Box>
            <Text fontWeight="600" mb="2">
              {state.label} would add{" "}
              {figure(
                state.preview.resources.reduce((sum, { added }) => sum + added, 0),
                0,
              )}{" "}
              rows; {figure(state.preview.logs.files, 0)} logs with {figure(state.preview.logs.frames, 0)} frames were read without a mistake
            </Text>
            <Flex wrap="wrap" columnGap="6" rowGap="0" mb="3">
              {state.preview.resources.map(({ resource, added, same, conflicts }) => (
                <Text key={resource} textStyle="figure" color={conflicts > 0 ? "doubt" : added > 0 ? "ink" : "quiet"}>
                  {resource.replaceAll("_", " ")}: {added > 0 ? `${added} new` : ""}
                  {added > 0 && same > 0 ? ", " : ""}
                  {same > 0 ? `${same} known` : ""}
                  {conflicts > 0 ? `, ${conflicts} in conflict` : ""}
                </Text>
              ))}
            </Flex>
            {state.preview.leftAlone.length > 0 && (
              <Text color="quiet" mb="3">
                Left alone, not part of the format: {state.preview.leftAlone.slice(0, 8).join(", ")}
              </Text>
            )}
            {state.preview.conflicts.length > 0 && (
              <Box mb="4">
                <Flex gap="4" align="center" mb="1" wrap="wrap">
                  <Text color="doubt" fontWeight="600">
                    {state.preview.conflicts.length} rows are in the lab with other content. Which is to stand?
                  </Text>
                  <Button size="xs" variant="outline" onClick={() => chooseAll(state.preview.conflicts, "keep-lab")}>
                    Keep the lab's, all
                  </Button>
                  <Button size="xs" variant="outline" onClick={() => chooseAll(state.preview.conflicts, "take-package")}>
                    Take the package's where possible
                  </Button>
                </Flex>
                <Box maxH="260px" overflowY="auto">
                  {state.preview.conflicts.map((conflict) => (
                    <Flex key={conflict.id} gap="4" py="1" borderTop="1px solid" borderColor="hairline" align="baseline">
                      <Text flex="1">
                        {conflict.resource.replaceAll("_", " ")} {conflict.key}:{" "}
                        {conflict.differences
                          .slice(0, 3)
                          .map((one) => `${one.column} is ${one.lab || "empty"} in the lab, ${one.package || "empty"} in the package`)
                          .join("; ")}
                        {!conflict.canReplace && " (a record: it cannot be replaced, give the package's row another id)"}
                      </Text>
                      {(["keep-lab", "take-package"] as const).map((choice) => (
                        <chakra.label
                          key={choice}
                          display="flex"
                          gap="1"
                          whiteSpace="nowrap"
                          opacity={choice === "take-package" && !conflict.canReplace ? 0.4 : 1}
                        >
                          <input
                            type="radio"
                            name={conflict.id}
                            disabled={choice === "take-package" && !conflict.canReplace}
                            checked={choices[conflict.id] === choice}
                            onChange={() => setChoices((before) => ({ ...before, [conflict.id]: choice }))}
                          />
                          {choice === "keep-lab" ? "keep the lab's" : "take the package's"}
                        </chakra.label>
                      ))}
                    </Flex>
                  ))}
                </Box>
              </Box>
            )}
            <Flex gap="4">
              <Button size="sm" disabled={open.length > 0} onClick={() => guarded(() => send(state.uploadId, state.label, "import"))}>
                {open.length > 0 ? `Import (${open.length} to choose)` : "Import"}
              </Button>
              <Button size="sm" variant="outline" onClick={() => forget(state.uploadId)}>
                Leave it
              </Button>
            </Flex>
          </Box>
        )}
      </Box>
    </Box>
  );
}

function TimeLeft({ since, done, of }: { since: number; done: number; of: number }) {
  const seconds = ((Date.now() - since) / 1000 / done) * (of - done);
  return <>, about {Math.max(1, Math.round(seconds))} s left</>;
}

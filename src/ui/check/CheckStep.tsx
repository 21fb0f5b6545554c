"use client";

import { Box, Button, chakra, Flex, Grid, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useRouter, useSearchParams } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import { doubtedRuns, findingEffects, type ReviewFinding } from "@/core/report";
import { InlineChoice, KeyHint, StepFoot, StepHead } from "../review/controls";
import { useKeptState, useReview, useReviewState } from "../review/ReviewContext";
import { UndoBar } from "../review/UndoBar";
import { useKeys } from "../review/useKeys";
import { CheckRules } from "./CheckRules";
import { effectText } from "./effectText";
import { RunsPicture } from "./RunsPicture";

type Decision = "accept" | "dismiss" | "discard-runs" | "rerun" | "move-runs" | "reopen";

const DECISION_NAMES: Record<Exclude<Decision, "reopen">, string> = {
  accept: "Accept as it is",
  dismiss: "Dismiss the doubt",
  "discard-runs": "Discard the doubted runs",
  rerun: "Run again",
  "move-runs": "Move to the cell it fits",
};
const DONE: Record<Exclude<Decision, "reopen">, string> = {
  accept: "Accepted.",
  dismiss: "Dismissed.",
  "discard-runs": "The doubted runs are discarded.",
  rerun: "The doubted runs are discarded and planned again.",
  "move-runs": "The runs are where they fit.",
};
const ASKS: Record<Exclude<Decision, "reopen">, string> = {
  accept: "why it is right as it is",
  dismiss: "why it is no mistake",
  "discard-runs": "why these runs are wrong",
  rerun: "what went wrong",
  "move-runs": "how they got here",
};
const STATES = [
  { value: "open", label: "open" },
  { value: "decided", label: "decided" },
  { value: "all", label: "all" },
] as const;

/** The doubts of a review, one at a time, with their evidence; decided by keyboard, with a reason that is kept. */
export function CheckStep() {
  const { model, actions } = useReview();
  const { row, show, setState } = useReviewState();
  const router = useRouter();
  const [shown, setShown] = useKeptState<(typeof STATES)[number]["value"]>("check shown", "open");
  // The address may name a doubt to open at; moving on from it stays here: an address that changes while the review is read
  // again would load the whole page.
  const asked = useSearchParams().get("at");
  const [at, setAt] = useKeptState<string | null>(`check at ${asked}`, asked);
  const [asking, setAsking] = useState<Exclude<Decision, "reopen"> | undefined>(undefined);
  const [reason, setReason] = useState("");
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | undefined>(undefined);
  const [undo, setUndo] = useKeptState<{ text: string; findingId: string; link?: { href: string; text: string } | undefined } | undefined>(
    "check undo",
    undefined,
  );
  const field = useRef<HTMLInputElement>(null);

  const effects = useMemo(() => findingEffects(model, model.findings), [model]);
  const findings = useMemo(
    () =>
      model.findings
        .filter((finding) => (shown === "all" ? true : shown === "open" ? finding.state === "open" && finding.raised : finding.state !== "open"))
        .filter((finding) => !row || finding.setupId === row)
        // What could change a published number most stands first.
        .sort((a, b) => (effects.get(b.id)?.largest ?? 0) - (effects.get(a.id)?.largest ?? 0) || (a.id < b.id ? -1 : 1)),
    [model, shown, row, effects],
  );
  const index = Math.max(
    0,
    findings.findIndex(({ id }) => id === at),
  );
  const finding = findings[index];
  const openCount = model.findings.filter(({ state, raised }) => state === "open" && raised).length;
  const labelOf = (setupId: string) => model.setups.find(({ id }) => id === setupId)?.label ?? setupId;
  const testOf = (key: string) => model.tests.find((test) => test.key === key);

  const move = (by: number) => {
    const next = findings[Math.max(0, Math.min(findings.length - 1, index + by))];
    if (!next) return;
    setAt(next.id);
    setAsking(undefined);
    setProblem(undefined);
  };
  /** Whether a decision makes sense for a doubt: there must be runs to discard, or a cell to move them to. */
  const may = (one: ReviewFinding, decision: Exclude<Decision, "reopen">) => {
    if (decision === "move-runs") return one.fits !== undefined;
    if (decision !== "discard-runs" && decision !== "rerun") return true;
    return one.check !== "too few runs" && doubtedRuns(model, one).length > 0;
  };
  const ask = (decision: Exclude<Decision, "reopen">) => {
    if (finding?.state !== "open" || !may(finding, decision)) return;
    setAsking(decision);
    setReason("");
    setProblem(undefined);
  };
  useEffect(() => {
    if (asking) field.current?.focus();
  }, [asking]);

  const decide = async (target: ReviewFinding, decision: Decision, why: string) => {
    setBusy(true);
    setProblem(undefined);
    const answer = await actions.decideFinding({ findingId: target.id, rowVersion: target.rowVersion, decision, reason: why });
    setBusy(false);
    if (!answer.ok) {
      setProblem(answer.sentence);
      return;
    }
    setAsking(undefined);
    setAt(findings[index + 1]?.id ?? findings[index - 1]?.id ?? null);
    setUndo(decision === "reopen" ? undefined : { text: DONE[decision], findingId: target.id });
    if (decision === "rerun") {
      const planned = await actions.planOpenRuns({ reviewId: model.id });
      if (planned.ok)
        setUndo({ text: DONE.rerun, findingId: target.id, link: { href: `/sheet/${model.id}/${planned.value.benchId}`, text: "To the run sheet" } });
      else setProblem(planned.sentence);
    }
    router.refresh();
  };
  const reopen = (findingId: string) => {
    const target = model.findings.find(({ id }) => id === findingId);
    if (target) void decide(target, "reopen", "");
  };

  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    j: () => move(1),
    k: () => move(-1),
    a: () => ask("accept"),
    d: () => ask("dismiss"),
    x: () => ask("discard-runs"),
    r: () => ask("rerun"),
    m: () => ask("move-runs"),
    o: () => finding && finding.state !== "open" && reopen(finding.id),
    Enter: () => finding && setState({ show: `cell:${finding.setupId}/${finding.testKey}` }),
    Escape: () => (asking ? setAsking(undefined) : show && setState({ show: null })),
  });

  return (
    <Box>
      <StepHead title={openCount === 0 ? "No doubt is open" : `${openCount} ${openCount === 1 ? "doubt" : "doubts"} to settle`}>
        <InlineChoice label="show" value={shown} options={[...STATES]} onChange={(value) => setShown(value)} />
        <InlineChoice
          label="of"
          value={row ?? ""}
          options={[{ value: "", label: "all setups" }, ...model.setups.map(({ id, label }) => ({ value: id, label }))]}
          onChange={(value) => setState({ row: value || null })}
        />
      </StepHead>
      {findings.length === 0 || !finding ? (
        <Text color="quiet" py="6">
          {shown === "open"
            ? "Nothing is doubted here: enough runs, agreeing with each other, uncapped, resolutions in order."
            : "No decision has been taken here yet."}
        </Text>
      ) : (
        <Grid templateColumns={{ base: "1fr", md: "minmax(280px, 380px) 1fr" }} gap="8">
          <Box as="ol" listStyleType="none" aria-label="Doubts">
            {findings.map((one, i) => (
              <chakra.li key={one.id}>
                <chakra.button
                  type="button"
                  onClick={() => {
                    setAt(one.id);
                    setAsking(undefined);
                  }}
                  aria-current={i === index ? "true" : undefined}
                  data-finding={one.id}
                  w="full"
                  textAlign="left"
                  cursor="pointer"
                  px="2"
                  py="2"
                  borderTop="1px solid"
                  borderColor="hairline"
                  bg={i === index ? "accentWash" : undefined}
                  _hover={{ bg: i === index ? "accentWash" : "wash" }}
                >
                  <Flex justify="space-between" gap="3">
                    <Text fontWeight="600">{one.check}</Text>
                    <Text textStyle="small" color={one.state === "open" ? "doubt" : "quiet"}>
                      {one.state}
                    </Text>
                  </Flex>
                  <Text truncate>
                    {labelOf(one.setupId)}
                    {one.testKey && `, ${testOf(one.testKey)?.name}`}
                  </Text>
                  <Text textStyle="small" color="quiet">
                    {effectText(effects.get(one.id))}
                  </Text>
                </chakra.button>
              </chakra.li>
            ))}
          </Box>
          <Box aria-live="polite">
            <Text fontSize="17px" fontWeight="600" lineHeight="24px">
              {finding.sentence}
            </Text>
            <Text color="quiet" mb="4">
              {labelOf(finding.setupId)}
              {finding.testKey && `, ${testOf(finding.testKey)?.name}, ${testOf(finding.testKey)?.settings.split(" · ").join(", ")}`}
            </Text>
            <RunsPicture finding={finding} />
            <Text mt="4">{finding.advice}</Text>
            {finding.fits && finding.fits.setupId !== finding.setupId && <Text color="quiet">The other setup is {labelOf(finding.fits.setupId)}.</Text>}
            <Flex mt="2" gap="4" wrap="wrap" color="accent.fg">
              {finding.runIds[0] && (
                <Link asChild color="accent.fg">
                  <NextLink href={`/reviews/${model.id}/run/${encodeURIComponent(finding.runIds[0])}`}>Open the doubted run</NextLink>
                </Link>
              )}
              <chakra.button type="button" cursor="pointer" onClick={() => setState({ show: `cell:${finding.setupId}/${finding.testKey}` })}>
                All runs of the cell
              </chakra.button>
            </Flex>
            {finding.state === "open" ? (
              <Flex mt="5" gap="3" wrap="wrap" align="center">
                {(Object.keys(DECISION_NAMES) as Exclude<Decision, "reopen">[])
                  .filter((one) => one !== "move-runs" || finding.fits)
                  .map((decision) => (
                    <Button
                      key={decision}
                      size="sm"
                      variant={asking === decision ? "solid" : "outline"}
                      onClick={() => ask(decision)}
                      disabled={busy || !may(finding, decision)}
                    >
                      {DECISION_NAMES[decision]}
                    </Button>
                  ))}
              </Flex>
            ) : (
              <Flex mt="5" gap="4" align="center" wrap="wrap">
                <Text>
                  {finding.state} by {finding.who} on {finding.at?.slice(0, 10)}: {finding.reason}
                </Text>
                <Button size="sm" variant="outline" disabled={busy} onClick={() => void decide(finding, "reopen", "")}>
                  Open again
                </Button>
              </Flex>
            )}
            {asking && (
              <chakra.form
                mt="3"
                display="flex"
                gap="2"
                maxW="560px"
                onSubmit={(event) => {
                  event.preventDefault();
                  void decide(finding, asking, reason);
                }}
              >
                <chakra.input
                  ref={field}
                  value={reason}
                  onChange={(event) => setReason(event.currentTarget.value)}
                  onKeyDown={(event) => event.key === "Escape" && setAsking(undefined)}
                  placeholder={ASKS[asking]}
                  aria-label="Reason"
                  maxLength={500}
                  flex="1"
                  bg="transparent"
                  borderBottom="1.5px solid"
                  borderColor="accent.solid"
                  px="1"
                />
                <Button type="submit" size="sm" disabled={busy || reason.trim() === ""}>
                  {busy ? "Recording …" : DECISION_NAMES[asking]}
                </Button>
              </chakra.form>
            )}
            {problem && (
              <Text role="alert" mt="3" color="doubt">
                {problem}
              </Text>
            )}
          </Box>
        </Grid>
      )}
      <CheckRules />
      {undo && <UndoBar text={undo.text} link={undo.link} onUndo={() => reopen(undo.findingId)} onClose={() => setUndo(undefined)} />}
      <StepFoot legend="Bands show twice the usual spread of the test; doubted runs are tall and ochre, discarded ones dashed.">
        <KeyHint keys="↑ ↓" does="doubt" />
        <KeyHint keys="A" does="accept" />
        <KeyHint keys="D" does="dismiss" />
        <KeyHint keys="X" does="discard runs" />
        <KeyHint keys="R" does="run again" />
        <KeyHint keys="M" does="move" />
        <KeyHint keys="O" does="open again" />
        <KeyHint keys="Enter" does="runs" />
      </StepFoot>
    </Box>
  );
}

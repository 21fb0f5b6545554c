"use client";

import { Box, Button, Checkbox, chakra, Flex, Grid, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import { Computation, checkClaim, gapsOf, suggestClaims } from "@/core/report";
import { StepHead } from "../review/controls";
import { useReview, useReviewState } from "../review/ReviewContext";
import { UndoBar } from "../review/UndoBar";
import { useKeys } from "../review/useKeys";

/** The verdict: sentences that the data bear out, what is still missing, and the publication. */
export function SayStep() {
  const { model, actions } = useReview();
  const { setState } = useReviewState();
  const router = useRouter();
  const [problem, setProblem] = useState<string | undefined>(undefined);
  const [busy, setBusy] = useState<string | undefined>(undefined);
  const [acknowledged, setAcknowledged] = useState(false);
  const [undo, setUndo] = useState<{ text: string; run: () => void } | undefined>(undefined);
  useKeys({ Escape: () => setState({ show: null }) });
  const suggestions = useMemo(() => suggestClaims(model), [model]);
  const claims = useMemo(
    () =>
      model.claims.map((claim) => {
        const computation = Computation.safeParse(parseJson(claim.computation));
        return {
          ...claim,
          parsed: computation.data,
          check: computation.data ? checkClaim(model, computation.data) : { holds: false, now: "its computation is of a kind this version does not know" },
        };
      }),
    [model],
  );
  const taken = new Set(claims.flatMap(({ parsed }) => (parsed ? [JSON.stringify(parsed)] : [])));
  const offered = suggestions.filter(({ computation }) => !taken.has(JSON.stringify(computation)));
  const gaps = gapsOf(model);
  const last = model.reports.at(-1);

  const run = async (name: string, action: () => Promise<{ ok: true } | { ok: false; sentence: string }>) => {
    setBusy(name);
    setProblem(undefined);
    const answer = await action();
    setBusy(undefined);
    if (!answer.ok) setProblem(answer.sentence);
    else router.refresh();
    return answer.ok;
  };
  const add = (sentence: string, computation: unknown) => run("claim", () => actions.addClaim({ reviewId: model.id, sentence, computation }));
  const lacks = [
    gaps.runsValid < gaps.runsWanted && `${gaps.runsWanted - gaps.runsValid} of ${gaps.runsWanted} runs are missing`,
    gaps.openFindings > 0 && `${gaps.openFindings} ${gaps.openFindings === 1 ? "doubt is" : "doubts are"} open`,
    gaps.stalePrices > 0 && `${gaps.stalePrices} ${gaps.stalePrices === 1 ? "price is" : "prices are"} older than 14 days`,
    claims.some(({ check }) => !check.holds) && "a sentence no longer holds",
    claims.length === 0 && "no sentence is chosen",
  ].filter((one) => one !== false);
  return (
    <Box>
      <StepHead title="What may be said" />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0, 1fr) 340px" }} gap="10">
        <Box>
          <Text fontWeight="600" mb="1">
            The verdict
          </Text>
          {claims.length === 0 && <Text color="quiet">No sentence yet. Take some from below: each is tied to the computation that makes it true.</Text>}
          {claims.map((claim) => (
            <Flex key={claim.id} gap="4" py="2" borderTop="1px solid" borderColor="hairline" align="baseline">
              <Box flex="1">
                <Text fontSize="16px" lineHeight="23px">
                  {claim.sentence}
                </Text>
                <Text textStyle="small" color={claim.check.holds ? "quiet" : "doubt"}>
                  {claim.check.holds ? "holds now" : "does not hold now"}: {claim.check.now}
                </Text>
              </Box>
              <Button
                size="xs"
                variant="outline"
                disabled={busy !== undefined}
                onClick={async () => {
                  if (await run("claim", () => actions.removeClaim({ claimId: claim.id }))) {
                    setUndo(claim.parsed && { text: "The sentence is removed.", run: () => void add(claim.sentence, claim.parsed) });
                  }
                }}
              >
                Remove
              </Button>
            </Flex>
          ))}
          <Text fontWeight="600" mt="8" mb="1">
            Sentences that the data bear out now
          </Text>
          {offered.length === 0 && (
            <Text color="quiet">{suggestions.length === 0 ? "None yet: the data are too few or leave everything open." : "All are in the verdict."}</Text>
          )}
          {offered.map(({ sentence, computation }) => (
            <SentenceOffer key={JSON.stringify(computation)} sentence={sentence} disabled={busy !== undefined} onTake={(text) => add(text, computation)} />
          ))}
        </Box>
        <Box>
          <Text fontWeight="600" mb="1">
            Before publication
          </Text>
          {lacks.length === 0 ? (
            <Text py="1" borderTop="1px solid" borderColor="hairline">
              Nothing is missing.
            </Text>
          ) : (
            lacks.map((text) => (
              <Text key={text} py="1" borderTop="1px solid" borderColor="hairline" color="doubt">
                {text}
              </Text>
            ))
          )}
          {gaps.openFindings > 0 && (
            <Checkbox.Root mt="3" checked={acknowledged} onCheckedChange={({ checked }) => setAcknowledged(checked === true)} size="sm">
              <Checkbox.HiddenInput />
              <Checkbox.Control />
              <Checkbox.Label>Publish with open doubts; they are printed on the page</Checkbox.Label>
            </Checkbox.Root>
          )}
          <Button
            mt="4"
            w="full"
            disabled={busy !== undefined}
            onClick={() => run("publish", () => actions.publish({ reviewId: model.id, acknowledgeDoubts: acknowledged }))}
          >
            {busy === "publish" ? "Freezing …" : `Publish version ${(last?.version ?? 0) + 1}`}
          </Button>
          {problem && (
            <Text role="alert" mt="3" color="doubt">
              {problem}
            </Text>
          )}
          <Text mt="3" color="quiet" fontSize="13px">
            A published version is frozen with its runs, prices and method; a later one supersedes it. Before the embargo its page answers nobody.
          </Text>
          {model.reports.length > 0 && (
            <Box mt="6">
              <Text fontWeight="600" mb="1">
                Published
              </Text>
              {[...model.reports].reverse().map((report) => (
                <Flex key={report.version} justify="space-between" py="1" borderTop="1px solid" borderColor="hairline">
                  <Link asChild color="accent.fg">
                    <NextLink href={`/p/${report.slug}?version=${report.version}`}>Version {report.version}</NextLink>
                  </Link>
                  <Text color="quiet" textStyle="figure">
                    {report.publishedAt.slice(0, 10)} {report.publishedAt.slice(11, 16)} UTC
                  </Text>
                </Flex>
              ))}
            </Box>
          )}
        </Box>
      </Grid>
      {undo && <UndoBar text={undo.text} onUndo={undo.run} onClose={() => setUndo(undefined)} />}
    </Box>
  );
}

/** A sentence on offer: may be worded anew before it is taken; its computation stays. */
function SentenceOffer({ sentence, disabled, onTake }: { sentence: string; disabled: boolean; onTake: (text: string) => void }) {
  const [text, setText] = useState(sentence);
  const [editing, setEditing] = useState(false);
  return (
    <Flex gap="3" py="2" borderTop="1px solid" borderColor="hairline" align="baseline">
      {editing ? (
        <chakra.textarea
          flex="1"
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
          rows={3}
          maxLength={600}
          aria-label="Sentence"
          bg="raised"
          border="1px solid"
          borderColor="hairline"
          px="2"
          py="1"
        />
      ) : (
        <Text flex="1">{text}</Text>
      )}
      <Button size="xs" variant="ghost" onClick={() => setEditing(!editing)}>
        {editing ? "Done" : "Reword"}
      </Button>
      <Button size="xs" variant="outline" disabled={disabled || text.trim() === ""} onClick={() => onTake(text)}>
        Take it
      </Button>
    </Flex>
  );
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

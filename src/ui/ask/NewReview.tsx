"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import type { SetupRole } from "@/core/bench";
import { inPriceBand, type KnownSetup, ofEqualSpeed, type Proposal, proposeReview, QUESTIONS, QuestionKind } from "@/core/plan";
import type { AskModel } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { idOf, SelectField, TextField, Tick, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";
import { AddSetup } from "./AddSetup";

interface Props {
  model: AskModel;
  startReview: (input: unknown) => Promise<ActionAnswer<{ id: string }>>;
  addSetup: (input: unknown) => Promise<ActionAnswer<{ id: string }>>;
}

const ROLES: { value: SetupRole; label: string }[] = [
  { value: "subject", label: "subject" },
  { value: "peer", label: "peer" },
  { value: "owned", label: "owned" },
];

/** A review is started from its question: what it is about, then a proposal from the lab's own prices and results, all of it editable. */
export function NewReview({ model, startReview, addSetup }: Props) {
  const router = useRouter();
  const { busy, trouble, act } = useAction();
  const [kind, setKind] = useState<QuestionKind>("launch");
  const [subjects, setSubjects] = useState<string[]>([]);
  const [edited, setEdited] = useState<Partial<Proposal> & { id?: string; until?: string }>({});
  const [filter, setFilter] = useState("");
  const [adding, setAdding] = useState(false);
  const proposal = useMemo(() => {
    const known = subjects.filter((id) => model.setups.some(({ setupId }) => setupId === id));
    return known.length > 0 ? proposeReview(kind, known, { setups: model.setups, suites: model.suites }) : undefined;
  }, [kind, subjects, model]);
  const draft = proposal && { ...proposal, ...edited };
  const setupOf = (id: string) => model.setups.find(({ setupId }) => setupId === id);
  const choose = (id: string) => {
    setSubjects((now) => (now.includes(id) ? now.filter((one) => one !== id) : kind === "head_to_head" ? [...now, id].slice(-2) : [id]));
    setEdited({});
  };
  const listed = model.setups.filter(({ label, maker, kind: part }) => `${label} ${maker ?? ""} ${part}`.toLowerCase().includes(filter.trim().toLowerCase()));
  const id = edited.id ?? idOf(`${draft?.title ?? ""} ${QUESTIONS[kind].name}`);
  const start = async () => {
    if (!draft) return;
    const made = await act(() =>
      startReview({
        id,
        title: draft.title,
        questionKind: kind,
        question: draft.question,
        baselineId: draft.baselineId,
        setups: draft.setups.map(({ setupId, role }) => ({ setupId, role })),
        suiteId: draft.suiteId,
        resolutions: draft.resolutions,
        constants: draft.constants,
        embargoUntil: edited.until ? `${edited.until}:00Z` : null,
      }),
    );
    if (made) router.push(`/reviews/${made.id}/bench`);
  };
  const priceOf = (one: KnownSetup | undefined) =>
    one?.price && model.region
      ? `${one.price.toLocaleString("en-GB", { maximumFractionDigits: 0 }).replaceAll(",", " ")} ${model.region.currency}`
      : "no price";
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em" mb="3">
        What is the question?
      </Text>
      <TickRuler steps={12} minor={5} />
      <Grid templateColumns={{ base: "1fr 1fr", md: "repeat(3, 1fr)" }} columnGap="6" mt="4" role="radiogroup" aria-label="Kind of question">
        {QuestionKind.options.map((one) => (
          <chakra.button
            key={one}
            type="button"
            role="radio"
            aria-checked={one === kind}
            textAlign="left"
            py="1.5"
            borderTop="1px solid"
            borderColor={one === kind ? "accent.solid" : "hairline"}
            cursor="pointer"
            onClick={() => {
              setKind(one);
              setEdited({});
            }}
          >
            <Text fontWeight="600" color={one === kind ? "accent.fg" : "ink"}>
              {QUESTIONS[one].name}
            </Text>
            <Text textStyle="small" color="quiet">
              {QUESTIONS[one].asks}
            </Text>
          </chakra.button>
        ))}
      </Grid>
      <Grid templateColumns={{ base: "1fr", lg: "330px minmax(0, 1fr)" }} gap="10" mt="8">
        <Box>
          <Text fontWeight="600" mb="1">
            {kind === "head_to_head" ? "Which two?" : "What is it about?"}
          </Text>
          <TextField label="filter setups" value={filter} onChange={setFilter} />
          <Box maxH="44vh" overflowY="auto" mt="2">
            {listed.map((one) => (
              <chakra.button
                key={one.setupId}
                type="button"
                display="grid"
                gridTemplateColumns="minmax(0, 1fr) auto"
                gap="3"
                w="full"
                textAlign="left"
                py="1.5"
                borderTop="1px solid"
                borderColor="hairline"
                cursor="pointer"
                bg={subjects.includes(one.setupId) ? "accentWash" : undefined}
                aria-pressed={subjects.includes(one.setupId)}
                onClick={() => choose(one.setupId)}
              >
                <Text fontWeight="500">{one.label}</Text>
                <Text textStyle="small" color="quiet" textAlign="right">
                  {one.validRuns > 0 ? `${one.validRuns} runs` : "not run yet"}, {priceOf(one)}
                </Text>
              </chakra.button>
            ))}
            {listed.length === 0 && <Text color="quiet">{model.setups.length === 0 ? "The lab has no setups yet." : "No setup fits."}</Text>}
          </Box>
          <Button size="xs" variant="outline" mt="3" onClick={() => setAdding(!adding)}>
            Add a setup
          </Button>
          {adding && (
            <AddSetup
              model={model}
              addSetup={addSetup}
              onDone={(added) => {
                setAdding(false);
                if (added) setSubjects(kind === "head_to_head" ? [...subjects, added].slice(-2) : [added]);
              }}
            />
          )}
        </Box>
        {!draft ? (
          <Text color="quiet" pt="6">
            Choose a setup; rivals in its price band and of equal speed, the suite, the resolutions and what to hold constant are proposed from the lab's own
            data.
          </Text>
        ) : (
          <Flex direction="column" gap="5">
            <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="4">
              <TextField label="title" value={draft.title} onChange={(title) => setEdited({ ...edited, title })} />
              <TextField label="id, for addresses" value={id} onChange={(next) => setEdited({ ...edited, id: next })} />
            </Grid>
            <TextField label="question" value={draft.question} onChange={(question) => setEdited({ ...edited, question })} />
            <Members
              draft={draft}
              model={model}
              onChange={(more) => setEdited({ ...edited, ...more })}
              priceOf={priceOf}
              setupOf={setupOf}
              subject={setupOf(subjects[0] ?? "")}
            />
            <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="4">
              <Box>
                <SelectField
                  label="suite"
                  value={draft.suiteId ?? ""}
                  onChange={(suiteId) =>
                    setEdited({ ...edited, suiteId: suiteId || null, resolutions: model.suites.find((one) => one.suiteId === suiteId)?.resolutions ?? [] })
                  }
                  options={[{ value: "", label: "none yet" }, ...model.suites.map(({ suiteId, name }) => ({ value: suiteId, label: name }))]}
                  hint={draft.suiteWhy}
                />
              </Box>
              <TextField label="embargo until, UTC" type="datetime-local" value={edited.until ?? ""} onChange={(until) => setEdited({ ...edited, until })} />
            </Grid>
            {draft.suiteId && (
              <Flex gap="5" wrap="wrap">
                {(model.suites.find(({ suiteId }) => suiteId === draft.suiteId)?.resolutions ?? []).map((resolution) => (
                  <Tick
                    key={resolution}
                    label={resolution.replace("x", " × ")}
                    checked={draft.resolutions.includes(resolution)}
                    onChange={(on) =>
                      setEdited({ ...edited, resolutions: on ? [...draft.resolutions, resolution] : draft.resolutions.filter((one) => one !== resolution) })
                    }
                  />
                ))}
              </Flex>
            )}
            <TextField
              label="held constant"
              value={draft.constants.join(", ")}
              onChange={(text) =>
                setEdited({
                  ...edited,
                  constants: text
                    .split(",")
                    .map((one) => one.trim())
                    .filter(Boolean),
                })
              }
            />
            <Flex>
              <Button disabled={busy} onClick={() => void start()}>
                Start the review
              </Button>
            </Flex>
            <Trouble text={trouble} />
          </Flex>
        )}
      </Grid>
    </Box>
  );
}

/** The proposed rows: role and reason, baseline, out again, and who else could be in by price or by speed. */
function Members({
  draft,
  model,
  onChange,
  priceOf,
  setupOf,
  subject,
}: {
  draft: Proposal;
  model: AskModel;
  onChange: (more: Partial<Proposal>) => void;
  priceOf: (one: KnownSetup | undefined) => string;
  setupOf: (id: string) => KnownSetup | undefined;
  subject: KnownSetup | undefined;
}) {
  const others = model.setups.filter(({ setupId }) => !draft.setups.some((member) => member.setupId === setupId));
  const priced = new Set(subject ? inPriceBand(subject, model.setups).map(({ setupId }) => setupId) : []);
  const level = new Set(subject ? ofEqualSpeed(subject, model.setups).map(({ setupId }) => setupId) : []);
  const hint = (id: string) => [priced.has(id) && "same price band", level.has(id) && "equal speed"].filter(Boolean).join(", ");
  return (
    <Box role="table" aria-label="Rows of the review">
      <Grid templateColumns="minmax(0, 1fr) 100px 90px 24px" gap="3" textStyle="small" color="quiet">
        <Text>row, and why</Text>
        <Text>role</Text>
        <Text>baseline</Text>
      </Grid>
      {draft.setups.map(({ setupId, role, why }) => (
        <Grid
          key={setupId}
          role="row"
          templateColumns="minmax(0, 1fr) 100px 90px 24px"
          gap="3"
          py="1"
          borderTop="1px solid"
          borderColor="hairline"
          alignItems="center"
        >
          <Box role="cell">
            <Text fontWeight="600">{setupOf(setupId)?.label}</Text>
            <Text textStyle="small" color="quiet">
              {why}, {priceOf(setupOf(setupId))}
            </Text>
          </Box>
          <Box role="cell">
            <SelectField
              label={`role of ${setupOf(setupId)?.label}`}
              hidden
              value={role}
              onChange={(next) => onChange({ setups: draft.setups.map((one) => (one.setupId === setupId ? { ...one, role: next as SetupRole } : one)) })}
              options={ROLES}
            />
          </Box>
          <Box role="cell">
            <input
              type="radio"
              name="baseline"
              aria-label={`${setupOf(setupId)?.label} is the baseline`}
              checked={draft.baselineId === setupId}
              onChange={() => onChange({ baselineId: setupId })}
            />
          </Box>
          <chakra.button
            type="button"
            minW="26px"
            minH="26px"
            aria-label={`Take ${setupOf(setupId)?.label} out`}
            cursor="pointer"
            color="quiet"
            disabled={draft.setups.length === 1 || draft.baselineId === setupId}
            _disabled={{ opacity: 0.3 }}
            onClick={() => onChange({ setups: draft.setups.filter((one) => one.setupId !== setupId) })}
          >
            ×
          </chakra.button>
        </Grid>
      ))}
      {others.length > 0 && (
        <Box w="320px" mt="2">
          <SelectField
            label="another row"
            value=""
            onChange={(setupId) => setupId && onChange({ setups: [...draft.setups, { setupId, role: "peer", why: hint(setupId) || "added" }] })}
            options={[
              { value: "", label: "choose" },
              ...others.map(({ setupId, label }) => ({ value: setupId, label: [label, hint(setupId)].filter(Boolean).join(", ") })),
            ]}
          />
        </Box>
      )}
    </Box>
  );
}

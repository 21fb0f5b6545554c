"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { parseAsInteger, parseAsString, useQueryStates } from "nuqs";
import { useMemo, useState } from "react";
import { BENCH_STATE_NAMES, type BenchRevision, compareRevisions, overallFit, propertyName } from "@/core/bench";
import type { BenchesModel } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { FilterField, idOf, SelectField, TextField, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";
import { FitAnswers, FitMark } from "./FitAnswers";

export interface BenchActions {
  reviseBench: (input: unknown) => Promise<ActionAnswer<{ revision: number }>>;
  declareTwin: (input: unknown) => Promise<ActionAnswer>;
}

const ROLES = ["cpu", "board", "memory", "cooler", "gpu", "storage", "psu", "system"];

/** The lab's benches: each revision as it was, what changed to it, and a new one from here. */
export function BenchesPage({ model, actions }: { model: BenchesModel; actions: BenchActions }) {
  const [{ bench, revision }, setState] = useQueryStates({ bench: parseAsString, revision: parseAsInteger }, { history: "replace" });
  const [editing, setEditing] = useState<"revision" | "bench" | undefined>(undefined);
  const [filter, setFilter] = useState("");
  const newest = useMemo(() => model.revisions.filter((one, i, all) => all.findIndex(({ id }) => id === one.id) === i), [model]);
  const listed = newest.filter(({ id, name, parts }) =>
    `${id} ${name} ${parts.map((part) => part.name).join(" ")}`.toLowerCase().includes(filter.trim().toLowerCase()),
  );
  const own = model.revisions.filter(({ id }) => id === (bench ?? newest[0]?.id));
  const shown = own.find((one) => one.revision === revision) ?? own[0];
  const before = shown && own.find((one) => one.revision < shown.revision);
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Flex align="baseline" gap="6" mb="3" wrap="wrap">
        <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em">
          Benches
        </Text>
        <FilterField what="benches" value={filter} onChange={setFilter} />
        <Button size="sm" variant="outline" ml="auto" onClick={() => setEditing("bench")}>
          New bench
        </Button>
      </Flex>
      <TickRuler steps={12} minor={5} />
      {newest.length === 0 && !editing && (
        <Text py="6" color="quiet">
          No bench yet. A bench is a test system: what it is built of and how it is set. Make the first one.
        </Text>
      )}
      <Grid templateColumns={{ base: "1fr", md: "220px minmax(0, 1fr)" }} gap="10" mt="3">
        <Box>
          {listed.map((one) => (
            <chakra.button
              key={one.id}
              type="button"
              display="block"
              w="full"
              textAlign="left"
              py="2"
              borderBottom="1px solid"
              borderColor="hairline"
              cursor="pointer"
              color={one.id === shown?.id ? "accent.fg" : "ink"}
              aria-pressed={one.id === shown?.id}
              onClick={() => {
                setEditing(undefined);
                void setState({ bench: one.id, revision: null });
              }}
            >
              <Text fontWeight="600">{one.name}</Text>
              <Text textStyle="small" color="quiet">
                revision {one.revision}, {one.createdOn ?? "undated"}
              </Text>
              <Text textStyle="small">
                <FitMark verdict={overallFit(one.fit)} />
              </Text>
            </chakra.button>
          ))}
        </Box>
        {editing ? (
          <BenchEditor
            key={`${editing}${shown?.id}${shown?.revision}`}
            model={model}
            base={editing === "revision" ? own[0] : undefined}
            actions={actions}
            onClose={() => setEditing(undefined)}
          />
        ) : (
          shown && (
            <Box>
              <Flex align="baseline" gap="4" wrap="wrap" mb="2">
                <Text textStyle="title">
                  {shown.name}, revision {shown.revision}
                </Text>
                {own.length > 1 && (
                  <Flex gap="1">
                    {own.map((one) => (
                      <chakra.button
                        key={one.revision}
                        type="button"
                        minW="26px"
                        minH="26px"
                        cursor="pointer"
                        color={one.revision === shown.revision ? "accent.fg" : "quiet"}
                        aria-pressed={one.revision === shown.revision}
                        onClick={() => void setState({ bench: one.id, revision: one.revision })}
                      >
                        {one.revision}
                      </chakra.button>
                    ))}
                  </Flex>
                )}
                <Button size="sm" ml="auto" onClick={() => setEditing("revision")}>
                  New revision
                </Button>
              </Flex>
              {before && <Changes before={before} after={shown} />}
              <Grid templateColumns={{ base: "1fr", lg: "1fr 1fr" }} gap="10" mt="4">
                <PropertyList revision={shown} />
                <Box>
                  <Text fontWeight="600" mb="1">
                    Its own parts together
                  </Text>
                  <FitAnswers answers={shown.fit} all />
                  <Twins model={model} shown={shown} declareTwin={actions.declareTwin} />
                </Box>
              </Grid>
            </Box>
          )
        )}
      </Grid>
    </Box>
  );
}

/** What changed from one revision to the next, before and after side by side. */
function Changes({ before, after }: { before: Pick<BenchRevision, "parts" | "state" | "revision">; after: Pick<BenchRevision, "parts" | "state"> }) {
  const changes = compareRevisions(before, after);
  return (
    <Box role="table" aria-label={`Changes since revision ${before.revision}`} mb="2">
      <Text color="quiet">
        {changes.length === 0
          ? `Nothing differs from revision ${before.revision}.`
          : `${changes.length} ${changes.length === 1 ? "change" : "changes"} since revision ${before.revision}`}
      </Text>
      {changes.map(({ property, before: old, after: fresh }) => (
        <Grid key={property} role="row" templateColumns="180px minmax(0, 1fr) minmax(0, 1fr)" gap="4" py="1" borderTop="1px solid" borderColor="hairline">
          <Text role="rowheader">{propertyName(property.replace("part:", ""))}</Text>
          <Text role="cell" color="quiet" textDecoration={old ? "line-through" : undefined}>
            {old ?? "was not there"}
          </Text>
          <Text role="cell" fontWeight="600">
            {fresh ?? "is gone"}
          </Text>
        </Grid>
      ))}
    </Box>
  );
}

function PropertyList({ revision }: { revision: BenchRevision }) {
  const lines = [
    ...revision.parts.map(({ role, name, quantity }) => [role, quantity && quantity > 1 ? `${quantity} × ${name}` : name] as const),
    ...revision.state.map(({ key, value }) => [propertyName(key), value] as const),
  ];
  return (
    <Box>
      <Text fontWeight="600" mb="1">
        What it is
      </Text>
      {lines.map(([name, value]) => (
        <Flex key={name} gap="4" py="1" borderTop="1px solid" borderColor="hairline">
          <Text color="quiet" w="150px" flexShrink="0">
            {name}
          </Text>
          <Text>{value}</Text>
        </Flex>
      ))}
    </Box>
  );
}

/** Declared twins, and the way to declare one. */
function Twins({ model, shown, declareTwin }: { model: BenchesModel; shown: BenchRevision; declareTwin: BenchActions["declareTwin"] }) {
  const { busy, trouble, act } = useAction();
  const others = model.revisions.filter(({ id }) => id !== shown.id);
  const [other, setOther] = useState(others[0] ? `${others[0].id}@${others[0].revision}` : "");
  const [why, setWhy] = useState("");
  const twins = model.twins.filter(
    (twin) => (twin.benchId === shown.id && twin.revision === shown.revision) || (twin.twinBenchId === shown.id && twin.twinRevision === shown.revision),
  );
  const nameOf = (id: string) => model.revisions.find((one) => one.id === id)?.name ?? id;
  return (
    <Box mt="6">
      <Text fontWeight="600" mb="1">
        Twins
      </Text>
      {twins.length === 0 && <Text color="quiet">None declared: a review's rows stay on one bench.</Text>}
      {twins.map((twin) => {
        const [id, revision] = twin.benchId === shown.id ? [twin.twinBenchId, twin.twinRevision] : [twin.benchId, twin.revision];
        return (
          <Text key={`${id}@${revision}`} py="1" borderTop="1px solid" borderColor="hairline">
            {nameOf(id)}, revision {revision}
            <Box as="span" color="quiet">
              {`, declared by ${twin.declaredBy ?? "somebody"}: ${twin.why ?? "no reason given"}`}
            </Box>
          </Text>
        );
      })}
      {others.length > 0 && (
        <Flex gap="3" mt="3" align="end">
          <SelectField
            label="twin of"
            value={other}
            onChange={setOther}
            options={others.map(({ id, revision, name }) => ({ value: `${id}@${revision}`, label: `${name}, revision ${revision}` }))}
          />
          <TextField label="why they are alike" value={why} onChange={setWhy} />
          <Button
            size="xs"
            disabled={busy}
            onClick={() => {
              const [twinBenchId, twinRevision] = other.split("@");
              void act(() => declareTwin({ benchId: shown.id, revision: shown.revision, twinBenchId, twinRevision: Number(twinRevision), why }));
            }}
          >
            Declare
          </Button>
        </Flex>
      )}
      <Trouble text={trouble} />
    </Box>
  );
}

interface Draft {
  parts: { partId: string; role: string; slot: string | null; quantity: number }[];
  state: { key: string; value: string }[];
}

/** A new revision (or bench) with the difference to the last one in sight while it is made. */
function BenchEditor({ model, base, actions, onClose }: { model: BenchesModel; base: BenchRevision | undefined; actions: BenchActions; onClose: () => void }) {
  const { busy, trouble, act } = useAction();
  const [name, setName] = useState(base?.name ?? "");
  const [draft, setDraft] = useState<Draft>(() => ({
    parts: base?.parts.map(({ partId, role, slot, quantity }) => ({ partId, role, slot, quantity: quantity ?? 1 })) ?? [],
    state: base?.state ?? Object.keys(BENCH_STATE_NAMES).map((key) => ({ key, value: "" })),
  }));
  const nameOf = (id: string) => model.parts.find((part) => part.id === id)?.name ?? id;
  const kept = { parts: draft.parts.filter(({ partId }) => partId), state: draft.state.filter(({ key, value }) => key && value.trim()) };
  const after = { parts: kept.parts.map((part) => ({ ...part, name: nameOf(part.partId) })), state: kept.state };
  const setPart = (role: string, partId: string) =>
    setDraft((now) => ({ ...now, parts: [...now.parts.filter((part) => part.role !== role), ...(partId ? [{ partId, role, slot: null, quantity: 1 }] : [])] }));
  const setState = (i: number, more: Partial<{ key: string; value: string }>) =>
    setDraft((now) => ({ ...now, state: now.state.map((line, j) => (j === i ? { ...line, ...more } : line)) }));
  const save = async () => {
    const made = await act(() => actions.reviseBench({ id: base?.id ?? idOf(name.replace(/^bench /i, "")), after: base?.revision ?? 0, name, ...kept }));
    if (made) onClose();
  };
  return (
    <Box>
      <Text textStyle="title" mb="3">
        {base ? `${base.name}, revision ${base.revision + 1}` : "A new bench"}
      </Text>
      <Grid templateColumns={{ base: "1fr", lg: "1fr 1fr" }} gap="10">
        <Box>
          <TextField label="name" value={name} onChange={setName} />
          <Text fontWeight="600" mt="5" mb="1">
            Parts
          </Text>
          <Grid templateColumns="1fr 1fr" gap="3">
            {ROLES.map((role) => (
              <SelectField
                key={role}
                label={role}
                value={draft.parts.find((part) => part.role === role)?.partId ?? ""}
                onChange={(partId) => setPart(role, partId)}
                options={[
                  { value: "", label: "none" },
                  ...model.parts.filter(({ kind }) => kind === role).map(({ id, name: label }) => ({ value: id, label })),
                ]}
              />
            ))}
          </Grid>
        </Box>
        <Box>
          <Text fontWeight="600" mb="1">
            State
          </Text>
          {draft.state.map((line, i) => (
            <Flex key={`${i}`} gap="3" mb="1">
              {BENCH_STATE_NAMES[line.key] ? (
                <Text w="150px" flexShrink="0" color="quiet" pt="4px">
                  {BENCH_STATE_NAMES[line.key]}
                </Text>
              ) : (
                <Box w="150px" flexShrink="0">
                  <TextField label="property" value={line.key} onChange={(key) => setState(i, { key })} placeholder="wall_meter" />
                </Box>
              )}
              <chakra.input
                aria-label={BENCH_STATE_NAMES[line.key] ?? line.key ?? "value"}
                value={line.value}
                onChange={(event) => setState(i, { value: event.currentTarget.value })}
                borderBottom="1px solid"
                borderColor="tick"
                bg="transparent"
                w="full"
                h="28px"
                placeholder="not known"
                _placeholder={{ color: "quiet" }}
              />
            </Flex>
          ))}
          <Button size="xs" variant="outline" mt="2" onClick={() => setDraft((now) => ({ ...now, state: [...now.state, { key: "", value: "" }] }))}>
            Another property
          </Button>
        </Box>
      </Grid>
      <Box mt="6">{base && <Changes before={base} after={after} />}</Box>
      <Flex gap="3" mt="4" align="center">
        <Button size="sm" disabled={busy || name.trim() === ""} onClick={() => void save()}>
          {base ? `Make revision ${base.revision + 1}` : "Make the bench"}
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
        <Text textStyle="small" color="quiet">
          Earlier revisions stay as they are, with their runs.
        </Text>
      </Flex>
      <Trouble text={trouble} />
    </Box>
  );
}

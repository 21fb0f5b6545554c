"use client";

import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { PartKind } from "@/core/bench";
import type { AskModel } from "@/core/report";
import { idOf, SelectField, TextArea, TextField, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";

const KINDS: PartKind[] = ["gpu", "cpu", "cooler", "board", "memory", "storage", "psu", "system"];
const FACTS: Partial<Record<PartKind, string>> = {
  gpu: "board_power: 198 W\nlength: 276 mm\npower_connectors: 2 × 8-pin",
  cpu: "socket: K4\npackage_power: 120 W",
  cooler: "sockets: K3, K4\nrated_power: 180 W\nheight: 152 mm",
  memory: "memory_type: DDR-V\nmemory_rate: 6000 MT/s",
  psu: "rated_power: 850 W\ngpu_connectors: 4 × 8-pin",
};

/** "key: value unit" lines as facts; a line without a colon is not one. */
export function parseFacts(text: string): { key: string; value: string; unit: string | null }[] {
  return text.split("\n").flatMap((line) => {
    const match = line.match(/^\s*([a-z][a-z0-9_]*)\s*:\s*(.+?)\s*$/i);
    if (!match) return [];
    const value = match[2] as string;
    const measured = value.match(/^(\d+(?:\.\d+)?)\s+(W|mm|GHz|GiB|MT\/s|dBA|V)$/);
    return [{ key: (match[1] as string).toLowerCase(), value: measured?.[1] ?? value, unit: measured?.[2] ?? null }];
  });
}

/** A setup for the lab: a part under test on a bench, known or new, and its state. */
export function AddSetup({
  model,
  addSetup,
  onDone,
}: {
  model: AskModel;
  addSetup: (input: unknown) => Promise<ActionAnswer<{ id: string }>>;
  onDone: (id?: string) => void;
}) {
  const { busy, trouble, act } = useAction();
  const newest = model.benches.at(-1);
  const [kind, setKind] = useState<PartKind>("gpu");
  const [partId, setPartId] = useState("");
  const [name, setName] = useState("");
  const [maker, setMaker] = useState("");
  const [facts, setFacts] = useState("");
  const [state, setState] = useState("");
  const [bench, setBench] = useState(newest ? `${newest.id}@${newest.revision}` : "");
  const part = model.parts.find(({ id }) => id === partId);
  const label = part?.name ?? name.trim();
  const save = async () => {
    const [benchId, revision] = bench.split("@");
    const facet = parseFacts(state);
    const made = await act(() =>
      addSetup({
        id: idOf(`${kind} ${part?.id ?? name} ${facet.map(({ value }) => value).join(" ")}`),
        label:
          facet.length > 0
            ? `${label}, ${facet.map(({ key, value, unit }) => `${key.replaceAll("_", " ")} ${value}${unit ? ` ${unit}` : ""}`).join(", ")}`
            : label,
        benchId,
        benchRevision: Number(revision),
        partIds: part ? [part.id] : [],
        newPart: part ? null : { id: idOf(name), kind, name: name.trim(), maker: maker.trim() || null, specs: parseFacts(facts) },
        state: facet,
      }),
    );
    if (made) onDone(made.id);
  };
  return (
    <Box mt="3" pt="3" borderTop="1px solid" borderColor="hairline">
      <Flex direction="column" gap="3">
        <Flex gap="3">
          <SelectField
            label="kind"
            value={kind}
            onChange={(next) => setKind(next as PartKind)}
            options={KINDS.map((value) => ({ value, label: value }))}
            width="110px"
          />
          <SelectField
            label="part under test"
            value={partId}
            onChange={setPartId}
            options={[
              { value: "", label: "new to the lab" },
              ...model.parts.filter((one) => one.kind === kind).map(({ id, name: text }) => ({ value: id, label: text })),
            ]}
          />
        </Flex>
        {!part && (
          <>
            <Flex gap="3">
              <TextField label="maker" value={maker} onChange={setMaker} />
              <TextField label="name" value={name} onChange={setName} />
            </Flex>
            <TextArea
              label="facts, one a line"
              value={facts}
              onChange={setFacts}
              hint={FACTS[kind] ? `like ${FACTS[kind]?.split("\n").join("; ")}` : "like tdp: 65 W"}
            />
          </>
        )}
        <TextField label="state, where it is not stock" value={state} onChange={setState} placeholder="power_limit: 120 W" />
        <SelectField
          label="bench"
          value={bench}
          onChange={setBench}
          options={[...model.benches].reverse().map(({ id, revision, name: text }) => ({ value: `${id}@${revision}`, label: `${text}, revision ${revision}` }))}
        />
        {model.benches.length === 0 && <Text color="doubt">Make a bench first, under Benches.</Text>}
        <Flex gap="3">
          <Button size="xs" disabled={busy || label === "" || bench === ""} onClick={() => void save()}>
            Add the setup
          </Button>
          <Button size="xs" variant="outline" onClick={() => onDone()}>
            Leave it
          </Button>
        </Flex>
        <Trouble text={trouble} />
      </Flex>
    </Box>
  );
}

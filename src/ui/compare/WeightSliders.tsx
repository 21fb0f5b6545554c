"use client";

import { Box, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { z } from "zod";
import { figure } from "@/core/report";
import { SelectField, TextField } from "../forms/fields";
import { readWeights, writeWeights } from "../review/ReviewContext";

const Mixes = z.record(z.string(), z.string());
const STORE = "parvex-mixes";

function readMixes(): Record<string, string> {
  try {
    const stored = Mixes.safeParse(JSON.parse(localStorage.getItem(STORE) ?? "{}"));
    return stored.success ? stored.data : {};
  } catch {
    return {};
  }
}

/** The reader's weights: figures follow while a slider moves, rows move when it is let go; mixes are kept in this browser. */
export function WeightSliders({
  workloads,
  weights,
  onMove,
  onLetGo,
}: {
  workloads: { id: string; name: string }[];
  weights: ReadonlyMap<string, number>;
  onMove: (weights: Map<string, number>) => void;
  onLetGo: (weights: ReadonlyMap<string, number>) => void;
}) {
  const [mixes, setMixes] = useState<Record<string, string>>({});
  const [name, setName] = useState("");
  useEffect(() => setMixes(readMixes()), []);
  const keep = (next: Record<string, string>) => {
    setMixes(next);
    try {
      localStorage.setItem(STORE, JSON.stringify(next));
    } catch {
      // A forbidden store costs only the memory beyond this page.
    }
  };
  const set = (next: Map<string, number>) => {
    onMove(next);
    onLetGo(next);
  };
  const letGo = () => onLetGo(weights);
  return (
    <Box as="section" aria-label="Weights of the workloads" mb="4" borderTop="1px solid" borderBottom="1px solid" borderColor="hairline" py="3">
      <Grid templateColumns={{ base: "1fr", md: "repeat(3, 1fr)", xl: "repeat(4, 1fr)" }} columnGap="8" rowGap="1">
        {workloads.map(({ id, name: workload }) => {
          const weight = weights.get(id) ?? 1;
          return (
            <Flex key={id} as="label" align="center" gap="3">
              <Text flex="1" truncate color={weight === 0 ? "quiet" : "ink"} textDecoration={weight === 0 ? "line-through" : undefined}>
                {workload}
              </Text>
              <chakra.input
                type="range"
                min={0}
                max={3}
                step={0.25}
                value={weight}
                aria-label={`Weight of ${workload}`}
                onChange={(event) => onMove(new Map(weights).set(id, Number(event.currentTarget.value)))}
                onPointerUp={letGo}
                onKeyUp={letGo}
                onBlur={letGo}
                w="110px"
                accentColor="var(--chakra-colors-accent-solid)"
              />
              <Text textStyle="figure" w="34px" textAlign="right">
                × {figure(weight, weight % 1 === 0 ? 0 : 2)}
              </Text>
            </Flex>
          );
        })}
      </Grid>
      <Flex gap="5" mt="2" align="flex-end" wrap="wrap">
        <chakra.button type="button" color="accent.fg" cursor="pointer" onClick={() => set(new Map())}>
          Weigh all the same
        </chakra.button>
        <SelectField
          label="saved mix"
          width="200px"
          value=""
          options={[
            { value: "", label: Object.keys(mixes).length > 0 ? "choose one" : "none yet" },
            ...Object.keys(mixes).map((one) => ({ value: one, label: one })),
          ]}
          onChange={(one) => mixes[one] !== undefined && set(readWeights(mixes[one]))}
        />
        <TextField label="save this mix as" width="180px" value={name} onChange={setName} />
        <chakra.button
          type="button"
          color={name.trim() === "" ? "quiet" : "accent.fg"}
          disabled={name.trim() === ""}
          cursor="pointer"
          onClick={() => {
            keep({ ...mixes, [name.trim()]: writeWeights(weights) });
            setName("");
          }}
        >
          Save mix
        </chakra.button>
      </Flex>
    </Box>
  );
}

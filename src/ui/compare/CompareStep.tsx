"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useMemo } from "react";
import { figure, oneFactorPairs } from "@/core/report";
import { useReview, useReviewState } from "../review/ReviewContext";
import { DuelView } from "./DuelView";
import { FactorView } from "./FactorView";
import { GenerationsView } from "./GenerationsView";
import { IndexView } from "./IndexView";
import { LaddersView } from "./LaddersView";
import { PairsView } from "./PairsView";
import { RobustView } from "./RobustView";
import { WorkView } from "./WorkView";

/** The comparisons that a review's data allow; the index always stands first. */
function useViews() {
  const { model } = useReview();
  return useMemo(() => {
    const cpus = new Set(model.labSetups.map(({ cpuId }) => cpuId));
    const gpus = new Set(model.labSetups.map(({ gpuId }) => gpuId));
    const all = [
      { id: "index", name: "Index", shown: true },
      { id: "duel", name: "Head to head", shown: model.setups.length > 1 },
      { id: "robust", name: "How robust", shown: model.setups.length > 1 },
      { id: "factor", name: "One factor", shown: oneFactorPairs(model).length > 0 },
      { id: "generations", name: "Generations and clocks", shown: model.setups.length > 1 },
      { id: "pairs", name: "Pairs", shown: cpus.size > 1 && gpus.size > 1 },
      { id: "ladders", name: "Ladders", shown: model.tests.some(({ ladder }) => ladder) },
      { id: "work", name: "Timed work", shown: model.tests.some(({ kind, better }) => kind === "time" && better === "lower") },
    ] as const;
    return all.filter(({ shown }) => shown);
  }, [model]);
}

/** The Compare step: how much faster, how sure, where, why. */
export function CompareStep() {
  const { model } = useReview();
  const { baseline } = useReviewState();
  const [asked, setAsked] = useQueryState("view", parseAsString.withDefault("index"));
  const views = useViews();
  const view = views.find(({ id }) => id === asked)?.id ?? "index";
  const base = model.setups.find(({ id }) => id === baseline);
  return (
    <Box>
      <Flex align="baseline" gap="6" rowGap="1" wrap="wrap" mb="3">
        <Text as="h2" textStyle="title">
          How fast against {base?.label}?
        </Text>
        <Text color="quiet">level within {figure(100 * model.margin, 0)} %</Text>
        <chakra.nav aria-label="Comparisons" display="flex" gap="4" flexWrap="wrap" ml={{ md: "auto" }}>
          {views.map(({ id, name }) => (
            <chakra.button
              key={id}
              type="button"
              cursor="pointer"
              aria-current={id === view ? "page" : undefined}
              borderBottom="2px solid"
              borderColor={id === view ? "accent.solid" : "transparent"}
              color={id === view ? "accent.fg" : "ink"}
              _hover={{ color: "accent.fg" }}
              onClick={() => void setAsked(id)}
            >
              {name}
            </chakra.button>
          ))}
        </chakra.nav>
      </Flex>
      {view === "index" && <IndexView />}
      {view === "duel" && <DuelView />}
      {view === "robust" && <RobustView />}
      {view === "factor" && <FactorView />}
      {view === "generations" && <GenerationsView />}
      {view === "pairs" && <PairsView />}
      {view === "ladders" && <LaddersView />}
      {view === "work" && <WorkView />}
    </Box>
  );
}

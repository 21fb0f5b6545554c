"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { EXACT_TO, influenceOfWorkloads } from "@/core/compare";
import { figure, type RowChart, robustnessOf, signedPercent } from "@/core/report";
import { ChartFrame } from "../charts/ChartFrame";
import { BaselineChoice, GroupChoice, ResolutionChoice, StepFoot } from "../review/controls";
import { useReview, useReviewState } from "../review/ReviewContext";
import { useSubset } from "./useCompareWorker";
import { useCompiled } from "./useIndex";

/** How far the order depends on how one counts: ranks over all ways, what single workloads do, the fewest that keep the order. */
export function RobustView() {
  const { model } = useReview();
  const { baseline, resolution, group, setState } = useReviewState();
  const compiled = useCompiled("result", { onlyOwnLimit: false, aggregate: "mean" });
  const { orderings, spreads } = useMemo(() => robustnessOf(model, { baselineId: baseline, resolution, group }), [model, baseline, resolution, group]);
  const influence = useMemo(() => (compiled.table ? influenceOfWorkloads(compiled.table, baseline) : []), [compiled, baseline]);
  const { progress, subset, trouble, start, cancel } = useSubset(compiled.table, baseline);
  const workloadName = (id: string) => model.tests.find((test) => test.workloadId === id)?.workloadName ?? id;
  const labelOf = (id: string) => model.setups.find((one) => one.id === id)?.label ?? id;
  const rows = [...spreads].sort((a, b) => (orderings[0]?.ranks.get(a.setupId) ?? 0) - (orderings[0]?.ranks.get(b.setupId) ?? 0));
  const choices = (
    <Flex gap="6" mb="3" wrap="wrap" align="center">
      <ResolutionChoice />
      <GroupChoice />
      <BaselineChoice />
    </Flex>
  );
  if (rows.length === 0)
    return (
      <>
        {choices}
        <Text color="quiet">There is no ranking here yet.</Text>
      </>
    );
  const n = rows.length;
  const steady = rows.filter(({ best, worst }) => best === worst).length;
  const at = (rank: number) => `${n === 1 ? 50 : 4 + (92 * (rank - 1)) / (n - 1)}%`;
  const largest = Math.max(0.0001, ...influence.map((one) => one.largest));
  const conditions = [
    `${orderings.length} ways of counting: as published, three schools of lows, medians, arithmetic means, single resolutions, without each workload. Band: ranks taken; filled: as published.`,
  ];
  const chart = (): RowChart => ({
    title: "How robust is the order",
    subtitle: `${steady} of ${n} rows keep their rank under all ${orderings.length} ways of counting`,
    unit: "ranks",
    min: 0.5,
    max: n + 0.5,
    major: Array.from({ length: n }, (_, i) => i + 1),
    minor: [],
    base: 0.5,
    band: [0.5, 0.5],
    rows: rows.map(({ setupId, best, worst }) => ({
      label: labelOf(setupId),
      value: orderings[0]?.ranks.get(setupId) ?? 0,
      low: best,
      high: worst,
      text: best === worst ? `rank ${best}` : `ranks ${best} to ${worst}`,
    })),
    conditions,
  });
  return (
    <Box>
      {choices}
      <Text fontSize="16px" mb="2">
        {steady === n ? `All ${n} rows keep their rank` : `${steady} of ${n} rows keep their rank`} under {orderings.length} ways of counting.
      </Text>
      <ChartFrame
        title="How robust is the order"
        summary={rows.map(({ setupId, best, worst }) => `${labelOf(setupId)}: ${best === worst ? `rank ${best}` : `ranks ${best} to ${worst}`}`).join("; ")}
        conditions={conditions}
        rowChart={chart}
        table={{
          heads: ["way of counting", ...rows.map(({ setupId }) => labelOf(setupId))],
          rows: orderings.map(({ name, ranks }) => ({
            key: name,
            cells: [{ text: name, sort: name }, ...rows.map(({ setupId }) => ({ text: String(ranks.get(setupId) ?? "–"), sort: ranks.get(setupId) ?? 99 }))],
          })),
        }}
      >
        <Box role="table" aria-label="Ranks over all ways of counting">
          <Grid role="row" templateColumns={{ base: "150px 1fr", md: "210px minmax(240px, 480px) 1fr" }} columnGap="5" color="quiet">
            <Text role="columnheader">Setup</Text>
            <Flex role="columnheader" position="relative" h="22px" aria-label="rank">
              {Array.from({ length: n }, (_, i) => i + 1).map((rank) => (
                <Text key={rank} position="absolute" left={at(rank)} transform="translateX(-50%)" textStyle="figure">
                  {rank}
                </Text>
              ))}
            </Flex>
            <Text role="columnheader" display={{ base: "none", md: "block" }}>
              another rank when counted
            </Text>
          </Grid>
          {rows.map(({ setupId, best, worst, otherwise }) => (
            <Grid
              role="row"
              key={setupId}
              templateColumns={{ base: "150px 1fr", md: "210px minmax(240px, 480px) 1fr" }}
              columnGap="5"
              alignItems="center"
              borderTop="1px solid"
              borderColor="hairline"
              minH="34px"
            >
              <chakra.button
                type="button"
                role="rowheader"
                textAlign="left"
                fontWeight="600"
                cursor="pointer"
                truncate
                onClick={() => setState({ row: setupId })}
              >
                {labelOf(setupId)}
              </chakra.button>
              <Box role="cell" aria-label={best === worst ? `rank ${best}` : `ranks ${best} to ${worst}`}>
                <svg width="100%" height="34" style={{ display: "block", overflow: "visible" }} aria-hidden>
                  {Array.from({ length: n }, (_, i) => i + 1).map((rank) => (
                    <line key={rank} x1={at(rank)} x2={at(rank)} y1="14" y2="20" stroke="var(--chakra-colors-tick)" />
                  ))}
                  {best !== worst && <line x1={at(best)} x2={at(worst)} y1="17" y2="17" stroke="var(--chakra-colors-ink)" strokeWidth="2" />}
                  {[best, worst].map((rank) => (
                    <circle key={rank} cx={at(rank)} cy="17" r="4.5" fill="var(--chakra-colors-paper)" stroke="var(--chakra-colors-ink)" strokeWidth="1.5" />
                  ))}
                  <circle cx={at(orderings[0]?.ranks.get(setupId) ?? 1)} cy="17" r="4.5" fill="var(--chakra-colors-ink)" />
                </svg>
              </Box>
              <Text role="cell" color={otherwise.length > 0 ? "doubt" : "quiet"} display={{ base: "none", md: "block" }} textStyle="small">
                {otherwise.length === 0
                  ? "never"
                  : `${otherwise.slice(0, 3).join(", ")}${otherwise.length > 3 ? ` and ${otherwise.length - 3} more ways` : ""}`}
              </Text>
            </Grid>
          ))}
        </Box>
      </ChartFrame>

      {influence.length > 0 && (
        <Box mt="6">
          <Text as="h3" fontSize="16px" fontWeight="600">
            What single workloads do
          </Text>
          <Text color="quiet" mb="2">
            The largest change that leaving one out makes to any row's index.
          </Text>
          <Grid templateColumns={{ base: "1fr", lg: "1fr 1fr" }} columnGap="10">
            {influence.slice(0, 14).map(({ workloadId, changes, largest: change, reorders }) => {
              const most = changes.reduce((a, b) => (Math.abs(b.change) > Math.abs(a.change) ? b : a));
              return (
                <Grid
                  key={workloadId}
                  templateColumns="minmax(0, 170px) 1fr 64px minmax(0, 190px)"
                  columnGap="4"
                  borderTop="1px solid"
                  borderColor="hairline"
                  h="28px"
                  alignItems="center"
                >
                  <Text truncate>{workloadName(workloadId)}</Text>
                  <svg width="100%" height="10" aria-hidden>
                    <line
                      x1="0"
                      x2={`${(100 * change) / largest}%`}
                      y1="5"
                      y2="5"
                      stroke={reorders ? "var(--chakra-colors-doubt)" : "var(--chakra-colors-ink)"}
                      strokeWidth="2"
                    />
                  </svg>
                  <Text textStyle="figure" textAlign="right">
                    {signedPercent(1 + most.change, 2)}
                  </Text>
                  <Text textStyle="small" color={reorders ? "doubt" : "quiet"} truncate>
                    {labelOf(most.setupId)}
                    {reorders ? ", turns the order" : ""}
                  </Text>
                </Grid>
              );
            })}
          </Grid>
          <Flex mt="4" gap="4" align="center" wrap="wrap" role="status">
            {progress ? (
              <>
                <Button size="xs" variant="outline" onClick={cancel}>
                  Cancel
                </Button>
                <Text color="quiet">
                  {figure(progress.tried, 0)} of {figure(progress.of, 0)} subsets looked at …
                </Text>
              </>
            ) : (
              <Button size="xs" variant="outline" onClick={start}>
                Find the fewest workloads that keep the order
              </Button>
            )}
            {subset && (
              <Text>
                {subset.workloadIds.length} of {influence.length} keep the order: {subset.workloadIds.map(workloadName).join(", ")}; indices move by up to{" "}
                {figure(100 * subset.largestChange, 1)} %.{" "}
                <chakra.span color="quiet">
                  {subset.method === "exact"
                    ? `Exact: no smaller set does, ${figure(subset.tried, 0)} looked at.`
                    : `Greedy, because there are more than ${EXACT_TO}: a smaller set may exist.`}
                </chakra.span>
              </Text>
            )}
            {trouble && <Text color="doubt">{trouble}</Text>}
          </Flex>
        </Box>
      )}
      <StepFoot legend="● as published, ─ ranks over all ways of counting. Ochre: leaving it out turns the order." />
    </Box>
  );
}

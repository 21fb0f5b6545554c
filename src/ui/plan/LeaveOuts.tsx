"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { type IndexUncertainty, type LeaveOut, NO_CUTS, type PlanChoices, type PlanModel } from "@/core/plan";
import { hoursText } from "./planWords";

const percent = (ratio: number | undefined) => (ratio === undefined ? "not known" : `± ${(100 * ratio).toFixed(ratio < 0.01 ? 2 : 1)} %`);
const cost = (before: IndexUncertainty, after: IndexUncertainty) =>
  [
    before.runNoise === undefined ? undefined : `re-running ${percent(before.runNoise)} → ${percent(after.runNoise)}`,
    before.choice === undefined ? undefined : `choice of workloads ${percent(before.choice)} → ${percent(after.choice)}`,
  ]
    .filter(Boolean)
    .join(", ") || "the cost in uncertainty is not known without earlier runs";

const isCut = ({ tests, resolutions, cells, runs }: PlanChoices["cuts"]) => tests.length + resolutions.length + cells.length + Object.keys(runs).length > 0;

interface Props {
  model: PlanModel;
  choices: PlanChoices;
  /** Undefined while they are being weighed. */
  proposals: LeaveOut[] | undefined;
  onCuts: (cuts: PlanChoices["cuts"]) => void;
}

/** What could be left out, with the hours it saves and the uncertainty it costs. Nothing is cut by itself. */
export function LeaveOuts({ model, choices, proposals, onCuts }: Props) {
  return (
    <Box>
      <Flex align="baseline" gap="5" mb="1">
        <Text as="h3" fontWeight="600">
          What could be left out
        </Text>
        {isCut(choices.cuts) && (
          <Button size="xs" variant="outline" onClick={() => onCuts(NO_CUTS)}>
            Put everything back
          </Button>
        )}
      </Flex>
      {isCut(choices.cuts) && (
        <Text color="doubt" mb="1">
          Left out now: {cutWords(model, choices.cuts)}.
        </Text>
      )}
      {!proposals && <Text color="quiet">Weighing what each test adds …</Text>}
      {proposals?.length === 0 && (
        <Text color="quiet">
          {model.history.logSpeed.length === 0
            ? "Without earlier runs of these tests nothing can be said of what they add."
            : "Nothing more: every test still adds something."}
        </Text>
      )}
      {proposals?.slice(0, 8).map((one) => (
        <Grid
          key={one.id}
          templateColumns={{ base: "1fr", md: "76px minmax(0, 1fr) 110px" }}
          gap="4"
          py="2"
          borderTop="1px solid"
          borderColor="hairline"
          alignItems="start"
        >
          <Text textStyle="figureStrong" title="hours saved">
            {hoursText(one.secondsSaved)}
          </Text>
          <Box>
            <Text fontWeight="500">{one.what}</Text>
            <Text textStyle="small" color="quiet">
              {one.reason} {one.consequence} Index interval from {cost(one.before, one.after)}.
            </Text>
          </Box>
          <Button size="xs" variant="outline" onClick={() => onCuts(one.cuts)}>
            Leave out
          </Button>
        </Grid>
      ))}
    </Box>
  );
}

function cutWords(model: PlanModel, cuts: PlanChoices["cuts"]): string {
  const names = [...new Set(cuts.tests.flatMap((key) => model.tests.find((test) => test.key === key)?.workloadName ?? []))];
  return [
    names.length > 0 && names.join(", "),
    cuts.resolutions.length > 0 && cuts.resolutions.map((one) => one.replace("x", " × ")).join(", "),
    cuts.cells.length > 0 && `${cuts.cells.length} cells`,
    Object.keys(cuts.runs).length > 0 && `runs of ${Object.keys(cuts.runs).length} tests`,
  ]
    .filter(Boolean)
    .join("; ");
}

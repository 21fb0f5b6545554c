"use client";

import { Box, Button, Flex, Grid, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { resolutionLabel } from "@/core/bench";
import { resolutionsOf } from "@/core/report";
import { SelectField, Trouble, useAction } from "../forms/fields";
import { StepHead } from "../review/controls";
import { useReview } from "../review/ReviewContext";

/** The Suite step: what every row goes through, workload by workload, and which suite that is. */
export function SuiteStep({ suites }: { suites: { id: string; name: string; tests: number }[] }) {
  const { whole: model, actions } = useReview();
  const { busy, trouble, act } = useAction();
  const resolutions = resolutionsOf(model);
  const workloads = [...new Set(model.tests.map(({ workloadId }) => workloadId))];
  const runs = model.tests.reduce((sum, { runsWanted }) => sum + runsWanted, 0);
  return (
    <Box>
      <StepHead title={`${model.tests.length} tests, ${runs} runs a row`} right={<SuiteLinks suiteId={model.suiteId} />}>
        <Box w="320px">
          <SelectField
            label="suite"
            value={model.suiteId ?? ""}
            onChange={(suiteId) => !busy && void act(() => actions.changeReview({ reviewId: model.id, suiteId: suiteId || null }))}
            options={[
              ...(model.suiteId ? [] : [{ value: "", label: "none yet" }]),
              ...suites.map(({ id, name, tests }) => ({ value: id, label: `${name} (${tests})` })),
            ]}
          />
        </Box>
      </StepHead>
      <Trouble text={trouble} />
      {model.tests.length === 0 && (
        <Box py="6">
          <Text color="quiet" mb="3">
            This review has no tests yet. Choose a suite above, or make one from the lab's tests.
          </Text>
          <Button size="sm" asChild>
            <NextLink href="/suites">Make a suite</NextLink>
          </Button>
        </Box>
      )}
      {model.tests.length > 0 && (
        <Box overflowX="auto">
          <Box minW="760px">
            <Grid
              templateColumns={`240px minmax(200px, 1fr) repeat(${Math.max(1, resolutions.length)}, 110px)`}
              columnGap="4"
              color="quiet"
              textStyle="small"
              pb="1"
            >
              <Text>Workload</Text>
              <Text>scene and settings</Text>
              {resolutions.length === 0 && <Text textAlign="right">runs</Text>}
              {resolutions.map((resolution) => (
                <Text key={resolution} textAlign="right">
                  runs at {resolutionLabel(resolution)}
                </Text>
              ))}
            </Grid>
            {workloads.map((id) => {
              const own = model.tests.filter(({ workloadId }) => workloadId === id);
              const settings = [...new Set(own.map((test) => test.settings))];
              const count = (resolution: string | null) =>
                own
                  .filter((test) => test.resolution === resolution)
                  .map(({ runsWanted, version }) => `${runsWanted}${version > 1 ? ` (version ${version})` : ""}`);
              return (
                <Grid
                  key={id}
                  templateColumns={`240px minmax(200px, 1fr) repeat(${Math.max(1, resolutions.length)}, 110px)`}
                  columnGap="4"
                  py="1.5"
                  borderTop="1px solid"
                  borderColor="hairline"
                >
                  <Text fontWeight="600">{own[0]?.workloadName}</Text>
                  <Text color="quiet" truncate title={settings.join("; ")}>
                    {settings.join("; ")}
                  </Text>
                  {(resolutions.length > 0 ? resolutions : [null]).map((resolution) => (
                    <Text key={resolution ?? "none"} textStyle="figure" textAlign="right">
                      {count(resolution).join(", ") || "–"}
                    </Text>
                  ))}
                </Grid>
              );
            })}
          </Box>
        </Box>
      )}
    </Box>
  );
}

function SuiteLinks({ suiteId }: { suiteId: string | null }) {
  return (
    <Flex gap="4">
      {suiteId && (
        <Link asChild color="accent.fg">
          <NextLink href={`/suites?suite=${suiteId}`}>Open this suite</NextLink>
        </Link>
      )}
      <Link asChild color="accent.fg">
        <NextLink href="/suites">All suites and tests</NextLink>
      </Link>
    </Flex>
  );
}

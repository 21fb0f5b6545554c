"use client";

import { Box, Button, Flex, Grid, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useState } from "react";
import { HEADROOM_RULE, overallFit, propertyName } from "@/core/bench";
import type { HeldModel } from "@/core/report";
import { TextField, Trouble, useAction } from "../forms/fields";
import { StepFoot, StepHead } from "../review/controls";
import { useReview } from "../review/ReviewContext";
import { rowStyle, SpineCell } from "../review/SpineCell";
import { FitAnswers } from "./FitAnswers";

type Difference = HeldModel["differences"][number];

/** The Bench step: what was to be held constant and is not, what each row stands on, and whether it goes together. */
export function BenchStep() {
  const { whole: model } = useReview();
  const { held } = model;
  const open = held.differences.filter(({ declared }) => declared === null).length;
  const unfit = held.setups.filter(({ fit }) => overallFit(fit) === "does not fit").length;
  return (
    <Box>
      <StepHead
        title={
          held.differences.length === 0
            ? "Everything else is held constant"
            : `${held.differences.length} ${held.differences.length === 1 ? "property differs" : "properties differ"} between rows`
        }
      >
        <Text color={open + unfit > 0 ? "doubt" : "quiet"}>
          {[open > 0 && `${open} to be declared or split by`, unfit > 0 && `${unfit} ${unfit === 1 ? "setup does" : "setups do"} not fit`]
            .filter(Boolean)
            .join(", ") || (held.differences.length > 0 ? "all declared" : "")}
        </Text>
      </StepHead>
      {held.differences.map((difference) => (
        <DifferenceLine key={difference.property} difference={difference} />
      ))}
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0, 1fr) 330px" }} gap="10" mt={held.differences.length > 0 ? 8 : 0}>
        <Box>
          <Grid templateColumns="240px 190px minmax(0, 1fr)" columnGap="5" color="quiet" textStyle="small" pb="1">
            <Text pl="34px">Setup</Text>
            <Text>stands on</Text>
            <Text>goes together</Text>
          </Grid>
          {model.setups.map((setup) => {
            const row = held.setups.find(({ id }) => id === setup.id);
            return (
              <Grid key={setup.id} templateColumns="240px 190px minmax(0, 1fr)" columnGap="5" py="2" {...rowStyle(false)}>
                <SpineCell setup={setup} />
                <Box>
                  <Link asChild color="ink">
                    <NextLink href={`/benches?bench=${row?.benchId}`}>
                      {row?.benchName}, revision {row?.benchRevision}
                    </NextLink>
                  </Link>
                  <Text textStyle="small" color={row && row.newestRevision > row.benchRevision ? "doubt" : "quiet"}>
                    {row && row.newestRevision > row.benchRevision ? `revision ${row.newestRevision} is newer` : row?.state}
                  </Text>
                </Box>
                <FitAnswers answers={row?.fit ?? []} />
              </Grid>
            );
          })}
        </Box>
        <Box>
          <Text fontWeight="600" mb="1">
            To be held constant
          </Text>
          <Text color="quiet" mb="3">
            {model.constants.length > 0 ? model.constants.join(", ") : "Everything but the part under test."}
          </Text>
          <Text fontWeight="600" mb="1">
            The same in all rows
          </Text>
          {held.common.map(({ property, value }) => (
            <Flex key={property} gap="3" py="1" borderTop="1px solid" borderColor="hairline" textStyle="small">
              <Text color="quiet" w="116px" flexShrink="0">
                {propertyName(property.replace("part:", ""))}
              </Text>
              <Text>{value}</Text>
            </Flex>
          ))}
        </Box>
      </Grid>
      <StepFoot legend={HEADROOM_RULE} />
    </Box>
  );
}

/** One difference with the rows behind each value, and what the editor makes of it. */
function DifferenceLine({ difference }: { difference: Difference }) {
  const { whole: model, actions } = useReview();
  const { busy, trouble, act } = useAction();
  const [why, setWhy] = useState("");
  const { declared, property } = difference;
  const name = propertyName(property.replace("part:", ""));
  const labelOf = (id: string) => model.setups.find((setup) => setup.id === id)?.label ?? id;
  const decide = (decision: "declared" | "split" | null) => act(() => actions.declareDifference({ reviewId: model.id, property, decision, why }));
  return (
    <Grid
      templateColumns={{ base: "1fr", lg: "190px minmax(0, 1fr) 400px" }}
      gap="5"
      py="3"
      borderTop="1px solid"
      borderColor="hairline"
      bg={declared ? undefined : "doubtWash"}
      px={declared ? 0 : 3}
      data-difference={property}
    >
      <Text fontWeight="600">{name}</Text>
      <Box>
        {difference.values.map(({ value, setupIds }) => (
          <Flex key={value ?? "unknown"} gap="3">
            <Text flexShrink="0">{value ?? "not known"}</Text>
            <Text color="quiet">{setupIds.length > 3 ? `${setupIds.length} rows` : setupIds.map(labelOf).join(", ")}</Text>
          </Flex>
        ))}
      </Box>
      {declared ? (
        <Flex gap="4" align="baseline" justify="space-between">
          <Text color="quiet">
            {declared.decision === "split" ? "a chart for each value" : "declared"} by {declared.who}: {declared.why}
          </Text>
          <Button size="xs" variant="outline" disabled={busy} onClick={() => void decide(null)}>
            Take back
          </Button>
        </Flex>
      ) : (
        <Box>
          <Flex gap="3" align="end">
            <TextField label="why it could not be held" value={why} onChange={setWhy} placeholder="another board for another socket" />
            <Button size="xs" disabled={busy} onClick={() => void decide("declared")}>
              Declare
            </Button>
            <Button size="xs" variant="outline" disabled={busy} onClick={() => void decide("split")}>
              Split charts
            </Button>
          </Flex>
          <Trouble text={trouble} />
        </Box>
      )}
    </Grid>
  );
}

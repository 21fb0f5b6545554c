"use client";

import { Box, Grid, Text } from "@chakra-ui/react";
import type { ColumnUse, IntakeModel, PastIntake } from "@/core/intake";

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

/** What an import came to, in a line. */
export function outcomeText({ stored, present, waiting, refused, state }: Omit<PastIntake, "id" | "label" | "madeBy" | "madeAt">): string {
  const parts = [
    stored > 0 && `${plural(stored, "file")} stored`,
    present > 0 && `${present} there before`,
    refused.length > 0 && `${refused.length} refused`,
    waiting > 0 && `${waiting} not read`,
  ].filter((part) => part !== false);
  return `${state === "cancelled" ? "cancelled: " : ""}${parts.join(", ") || "nothing"}`;
}

/** What the columns of a profile are read as, without those that are left out. */
export function usesText(uses: readonly ColumnUse[]): string {
  const read = uses.flatMap((use) => {
    if (use.use === "ignore") return [];
    return [use.use === "channel" ? `${use.channel} (${use.unit})` : `${use.use.replace("-", " ")}${"unit" in use ? ` (${use.unit})` : ""}`];
  });
  const left = uses.length - read.length;
  return `${read.join(", ")}${left > 0 ? `; ${left} left out` : ""}`;
}

/** What was taken in lately, and how the lab has learnt to read: by the shape of a log and by its path. */
export function IntakeMemory({ model }: { model: IntakeModel }) {
  const { past, profiles, patterns } = model;
  if (past.length + profiles.length + patterns.length === 0)
    return (
      <Text mt="6" color="quiet" maxW="640px">
        Nothing has been taken in yet. Columns and units are found in the logs themselves, setups and tests in their paths; you see both before anything is
        stored, and what you correct is remembered.
      </Text>
    );
  return (
    <Grid mt="8" templateColumns={{ base: "1fr", lg: "1fr 1fr" }} columnGap="10" rowGap="8" alignItems="start">
      <Box as="section" aria-label="Taken in lately">
        <Text as="h2" textStyle="title" mb="1">
          Taken in lately
        </Text>
        {past.length === 0 && <Text color="quiet">No import has ended yet.</Text>}
        {past.map((one) => (
          <Box key={one.id} py="2" borderTop="1px solid" borderColor="hairline">
            <Text fontWeight="600" truncate>
              {one.label}
            </Text>
            <Text color="quiet" textStyle="figure">
              {one.madeAt.slice(0, 16).replace("T", " ")} UTC, {one.madeBy}: {outcomeText(one)}
            </Text>
            {one.refused.slice(0, 3).map(({ path, reason }) => (
              <Text key={path} color="doubt" textStyle="small" mt="0.5">
                {reason.startsWith(path) ? reason : `${path}: ${reason}`}
              </Text>
            ))}
            {one.refused.length > 3 && (
              <Text color="quiet" textStyle="small">
                and {one.refused.length - 3} more
              </Text>
            )}
          </Box>
        ))}
      </Box>
      <Box as="section" aria-label="How logs are read">
        <Text as="h2" textStyle="title" mb="1">
          How logs are read
        </Text>
        {patterns.length + profiles.length === 0 && <Text color="quiet">Nothing is remembered yet.</Text>}
        {patterns.slice(0, 4).map(({ template }) => (
          <Text key={template} py="2" borderTop="1px solid" borderColor="hairline" overflowWrap="anywhere">
            {template}
          </Text>
        ))}
        {profiles.slice(0, 8).map(({ fingerprint, name, uses }) => (
          <Box key={fingerprint} py="2" borderTop="1px solid" borderColor="hairline">
            <Text fontWeight="600" truncate>
              {name}
            </Text>
            <Text color="quiet" textStyle="small">
              {usesText(uses)}
            </Text>
          </Box>
        ))}
      </Box>
    </Grid>
  );
}

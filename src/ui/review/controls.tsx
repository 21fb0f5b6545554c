"use client";

import { Box, chakra, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { propertyName, resolutionLabel } from "@/core/bench";
import { chartsOf, groupsOf, resolutionsOf } from "@/core/report";
import { OVERALL, SCHOOLS, useReview, useReviewState } from "./ReviewContext";
import { useKeys } from "./useKeys";

export const SCHOOL_NAMES = { percentile: "percentile", tail_mean: "tail mean", time_share: "time share" } as const;

/** A choice that reads as part of a sentence: its label small before it, the value underlined. */
export function InlineChoice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: { value: T; label: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <Flex align="center" gap="1.5" as="label">
      <Text as="span" color="quiet" whiteSpace="nowrap">
        {label}
      </Text>
      <NativeSelect.Root size="xs" variant="plain" width="auto">
        <NativeSelect.Field
          value={value}
          onChange={(event) => onChange(event.currentTarget.value as T)}
          aria-label={label}
          fontWeight="500"
          fontSize="14px"
          height="24px"
          px="0"
          pe="4"
          borderBottom="1.5px solid"
          borderColor="ink"
          borderRadius="0"
          cursor="pointer"
          bg="transparent"
        >
          {options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator width="3" />
      </NativeSelect.Root>
    </Flex>
  );
}

/** The head of a step: its question, then the choices it depends on. */
export function StepHead({ title, children, right }: { title: string; children?: ReactNode; right?: ReactNode }) {
  return (
    <Flex align="center" gap={{ base: 3, md: 6 }} mb="3" wrap="wrap" rowGap="1">
      <Text as="h2" textStyle="title">
        {title}
      </Text>
      {children}
      {right && <Box ml="auto">{right}</Box>}
    </Flex>
  );
}

export function ResolutionChoice({ overall = true }: { overall?: boolean }) {
  const { model } = useReview();
  const { res, setState } = useReviewState();
  const options = resolutionsOf(model).map((value) => ({ value, label: resolutionLabel(value) }));
  if (overall) options.push({ value: OVERALL, label: "all resolutions" });
  if (options.length < 2) return null;
  return <InlineChoice label="at" value={res} options={options} onChange={(value) => setState({ res: value })} />;
}

/** Which chart, where the editor has split them by something that could not be held constant. */
function ChartChoice() {
  const { whole } = useReview();
  const { chart, setState } = useReviewState();
  const charts = chartsOf(whole);
  if (charts.length < 2) return null;
  const shown = charts.find(({ id }) => id === chart) ?? charts.find(({ setupIds }) => setupIds.includes(whole.baselineId));
  return (
    <InlineChoice
      label="chart"
      value={shown?.id ?? "1"}
      options={charts.map(({ id, name }) => ({ value: id, label: name }))}
      onChange={(value) => setState({ chart: value, baseline: null })}
    />
  );
}

export function BaselineChoice() {
  const { model } = useReview();
  const { baseline, setState } = useReviewState();
  return (
    <>
      <ChartChoice />
      <InlineChoice
        label="baseline"
        value={baseline}
        options={model.setups.map(({ id, label }) => ({ value: id, label }))}
        onChange={(value) => setState({ baseline: value })}
      />
    </>
  );
}

/** What could not be held constant in these rows, declared by the editor; stands under each chart. */
export function DeclaredDifferences() {
  const { model, whole } = useReview();
  const ids = new Set(model.setups.map(({ id }) => id));
  const lines = whole.held.differences.filter(({ values }) => values.filter(({ setupIds }) => setupIds.some((id) => ids.has(id))).length > 1);
  if (lines.length === 0) return null;
  return (
    <Text textStyle="small" color={lines.some(({ declared }) => !declared) ? "doubt" : "quiet"} mt="3">
      Not the same in all rows:{" "}
      {lines.map(({ property, declared }) => `${propertyName(property.replace("part:", ""))} (${declared ? declared.why : "not declared yet"})`).join("; ")}.
    </Text>
  );
}

export function SchoolChoice() {
  const { school, setState } = useReviewState();
  return (
    <InlineChoice
      label="1 % low by"
      value={school}
      options={SCHOOLS.map((value) => ({ value, label: SCHOOL_NAMES[value] }))}
      onChange={(value) => setState({ school: value })}
    />
  );
}

/** Which group of tests: games, production, synthetic … are never mixed in one index. */
export function GroupChoice() {
  const { model } = useReview();
  const { group, setState } = useReviewState();
  const groups = groupsOf(model);
  if (groups.length < 2 || !group) return null;
  return (
    <InlineChoice
      label="in"
      value={group}
      options={groups.map((value) => ({ value, label: value }))}
      onChange={(value) => setState({ group: value, weights: "" })}
    />
  );
}

export function OrderChoice() {
  const { order, setState } = useReviewState();
  return (
    <InlineChoice
      label="order"
      value={order}
      options={[
        { value: "review", label: "of the review" },
        { value: "rank", label: "by speed" },
      ]}
      onChange={(value) => setState({ order: value })}
    />
  );
}

/** A key's cap with what it does. */
export function KeyHint({ keys, does }: { keys: string; does: string }) {
  return (
    <Flex align="center" gap="1.5" color="quiet" fontSize="13px">
      <chakra.kbd
        border="1px solid"
        borderColor="hairline"
        px="6px"
        minW="20px"
        textAlign="center"
        lineHeight="18px"
        textStyle="figure"
        color="ink"
        bg="raised"
      >
        {keys}
      </chakra.kbd>
      {does}
    </Flex>
  );
}

/** The foot of a step: legend to the left, keys to the right; `?` shows the keys wherever the page is scrolled to. */
export function StepFoot({ legend, children }: { legend?: ReactNode; children?: ReactNode }) {
  const [asked, setAsked] = useState(false);
  useKeys({ "?": () => setAsked(!asked) });
  return (
    <>
      <Flex mt="8" pt="2" borderTop="1px solid" borderColor="hairline" justify="space-between" gap="6" wrap="wrap" fontSize="13px" color="quiet">
        <Box>{legend}</Box>
        <Flex gap="4" display={{ base: "none", md: "flex" }}>
          {children}
          <KeyHint keys="?" does="keys" />
        </Flex>
      </Flex>
      {asked && (
        <Flex
          role="status"
          aria-label="Keys of this screen"
          position="fixed"
          bottom="5"
          right="5"
          zIndex="15"
          direction="column"
          gap="2"
          bg="raised"
          border="1px solid"
          borderColor="hairline"
          px="4"
          py="3"
        >
          {children}
          <KeyHint keys="Ctrl K" does="go to, find, do" />
          <KeyHint keys="?" does="close these" />
        </Flex>
      )}
    </>
  );
}

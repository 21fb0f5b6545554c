"use client";

import { Box, chakra, Drawer, Flex, Text } from "@chakra-ui/react";
import { resolutionLabel } from "@/core/bench";
import { useReview, useReviewState } from "../review/ReviewContext";

/** A named fact of the evidence. */
export function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <Flex justify="space-between" gap="4" py="1" borderTop="1px solid" borderColor="hairline">
      <Text color="quiet" flexShrink="0">
        {name}
      </Text>
      <Box textAlign="right" textStyle="figure" fontSize="14.5px">
        {children}
      </Box>
    </Flex>
  );
}

/** Title, the number itself and the formula in words. */
export function EvidenceHead({
  title,
  subtitle,
  value,
  unit,
  interval,
  formula,
}: {
  title: string;
  subtitle?: string;
  value: string;
  unit?: string;
  interval?: string | undefined;
  formula: string;
}) {
  return (
    <Box mb="4" pr="8">
      <Drawer.Title fontSize="16px" fontWeight="600" lineHeight="22px">
        {title}
      </Drawer.Title>
      {subtitle && (
        <Text textStyle="small" color="quiet">
          {subtitle}
        </Text>
      )}
      <Flex align="baseline" gap="2" mt="3">
        <Text fontSize="34px" lineHeight="40px" fontWeight="600" fontStretch="82%">
          {value}
        </Text>
        {unit && <Text color="quiet">{unit}</Text>}
      </Flex>
      {interval && (
        <Text textStyle="figure" color="quiet">
          {interval}
        </Text>
      )}
      <Text mt="2">{formula}</Text>
    </Box>
  );
}

/** The tests behind a number; each opens the runs of its cell. */
export function TestButtons({ setupId, tests }: { setupId: string; tests: { testKey: string; says: string }[] }) {
  const { model } = useReview();
  const { resolution, setState } = useReviewState();
  return tests.map(({ testKey, says }) => {
    const test = model.tests.find(({ key }) => key === testKey);
    return (
      <chakra.button
        type="button"
        key={testKey}
        display="block"
        w="full"
        py="1"
        borderTop="1px solid"
        borderColor="hairline"
        cursor="pointer"
        _hover={{ bg: "wash" }}
        onClick={() => setState({ show: `cell:${setupId}/${testKey}` })}
      >
        <Flex justify="space-between" gap="3">
          <Text truncate>
            {test?.workloadName}
            {!resolution && test?.resolution ? ` ${resolutionLabel(test.resolution)}` : ""}
          </Text>
          <Text textStyle="figure" whiteSpace="nowrap">
            {says}
          </Text>
        </Flex>
      </chakra.button>
    );
  });
}

"use client";

import { Box, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { usePathname } from "next/navigation";
import type { ReactNode } from "react";
import { TickRuler } from "../charts/TickRuler";
import { EvidenceDrawer } from "../evidence/EvidenceDrawer";
import { useReview, useReviewState } from "./ReviewContext";
import { embargoText, stepsOf } from "./steps";

const StepLink = chakra(NextLink);

/** Frame of a review's screens: its name and deadline, the ruler of steps, the step itself, the evidence drawer. */
export function ReviewShell({ nowMs, children }: { nowMs: number; children: ReactNode }) {
  const { whole: model } = useReview();
  const { show, search } = useReviewState();
  const pathname = usePathname();
  const steps = stepsOf(model);
  const active = steps.findIndex(({ path }) => pathname.includes(`/${model.id}/${path}`));
  const embargo = embargoText(model.embargoUntil, nowMs);
  return (
    <>
      <Box position="sticky" top="0" zIndex="5" bg="paper" px={{ base: 3, md: 5 }} pt="6px">
        <Flex gap="4" align="baseline" mb="6px" wrap="wrap">
          <Text fontWeight="600" as="h1">
            {model.title}
          </Text>
          {embargo && (
            <Text textStyle="small" color="quiet">
              {embargo}
            </Text>
          )}
        </Flex>
        <chakra.nav aria-label="Steps of the review" overflowX="auto" overflowY="hidden">
          <Box minW={`${steps.length * 98}px`} px="1px" pt="1px">
            <TickRuler steps={steps.length} active={active} />
            <Grid templateColumns={`repeat(${steps.length}, minmax(0, 1fr))`} pb="6px">
              {steps.map((step, i) => (
                <StepLink
                  key={step.path}
                  href={`/reviews/${model.id}/${step.path}${search}`}
                  // Eleven steps fetched with every page would cost more than the one that is gone to.
                  prefetch={false}
                  aria-current={i === active ? "page" : undefined}
                  display="block"
                  pl="7px"
                  pt="2px"
                  color={i === active ? "accent.fg" : "ink"}
                  _hover={{ color: "accent.fg" }}
                >
                  <Box fontWeight={i === active ? "600" : "500"} lineHeight="19px">
                    {step.name}
                  </Box>
                  <Box textStyle="small" color={step.doubtful ? "doubt" : "quiet"} whiteSpace="nowrap">
                    {step.left}
                  </Box>
                </StepLink>
              ))}
            </Grid>
          </Box>
        </chakra.nav>
        <Box borderBottom="1px solid" borderColor="hairline" mx={{ base: -3, md: -5 }} />
      </Box>
      {/* From about 1500 px the evidence stands beside the step instead of over it. */}
      <Box as="main" pl={{ base: 3, md: 5 }} pr={{ base: 3, md: 5, "2xl": show === null ? 5 : "460px" }} pt="4" pb="16">
        {children}
      </Box>
      <EvidenceDrawer />
    </>
  );
}

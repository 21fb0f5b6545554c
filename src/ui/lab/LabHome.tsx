"use client";

import { Box, Button, Flex, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import type { ReviewLine } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { embargoText } from "../review/steps";
import { ImportPanel } from "./ImportPanel";

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

/** What a review still lacks, each with the step that mends it. */
function lacksOf(review: ReviewLine): { text: string; step: string }[] {
  const { gaps } = review;
  const lacks = [
    gaps.runsValid < gaps.runsWanted && {
      text: `${plural(gaps.runsWanted - gaps.runsValid, "run")} missing`,
      step: review.gaps.runsValid < review.gaps.runsWanted * 0.9 ? "plan" : "run",
    },
    gaps.openFindings > 0 && { text: `${plural(gaps.openFindings, "doubt")} open`, step: "check" },
    gaps.stalePrices > 0 && { text: `${plural(gaps.stalePrices, "price")} stale`, step: "value" },
    review.publishedVersion === null && { text: "not published", step: "say" },
  ];
  return lacks.filter((one) => one !== false);
}

/** The lab's first screen: the reviews, what each lacks, and the way in and out for data. */
export function LabHome({ reviews, nowMs }: { reviews: ReviewLine[]; nowMs: number }) {
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1180px" mx="auto">
      <Flex align="center" mb="4">
        <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em">
          Reviews
        </Text>
        <Button size="sm" asChild ml="auto">
          <NextLink href="/reviews/new">Start a review</NextLink>
        </Button>
      </Flex>
      <TickRuler steps={12} minor={5} />
      {reviews.length === 0 && (
        <Text py="8" color="quiet">
          No review yet. Start one from its question, or drop a package below: a folder or a zip with a datapackage.json. The examples folder of the project
          holds a small real one.
        </Text>
      )}
      {reviews.map((review) => {
        const share = review.gaps.runsWanted > 0 ? review.gaps.runsValid / review.gaps.runsWanted : 0;
        const lacks = lacksOf(review);
        return (
          <Box
            key={review.id}
            py="5"
            borderBottom="1px solid"
            borderColor="hairline"
            display="grid"
            gridTemplateColumns={{ base: "1fr", md: "minmax(0, 1fr) 220px 230px" }}
            columnGap="8"
            rowGap="3"
            alignItems="start"
          >
            <Box>
              <Link asChild fontSize="19px" lineHeight="26px" fontWeight="600" color="ink" _hover={{ color: "accent.fg" }}>
                <NextLink href={`/reviews/${review.id}/run`}>{review.title}</NextLink>
              </Link>
              {review.question && <Text>{review.question}</Text>}
              <Text textStyle="small" color="quiet" mt="1">
                {plural(review.setups, "setup")}, {plural(review.tests, "test")}
                {review.embargoUntil && `, ${embargoText(review.embargoUntil, nowMs)}`}
              </Text>
            </Box>
            <Box>
              <Text textStyle="figureStrong">
                {review.gaps.runsValid} of {review.gaps.runsWanted}{" "}
                <Box as="span" fontSize="13px" fontWeight="400" color="quiet">
                  runs
                </Box>
              </Text>
              <ProgressTicks share={share} />
            </Box>
            <Box lineHeight="24px">
              {lacks.length === 0 && <Text color="quiet">Nothing is missing.</Text>}
              {lacks.map(({ text, step }) => (
                <Box key={text}>
                  <Link asChild display="inline-block" color={step === "say" ? "quiet" : "doubt"}>
                    <NextLink href={`/reviews/${review.id}/${step}`}>{text}</NextLink>
                  </Link>
                </Box>
              ))}
              <Flex gap="4" mt="1">
                {review.publishedVersion !== null && (
                  <Link asChild color="accent.fg" display="inline-block">
                    <NextLink href={`/p/${review.id}`}>Published page</NextLink>
                  </Link>
                )}
                <Link display="inline-block" href={`/api/export?review=${review.id}`} color="accent.fg" download>
                  Export
                </Link>
              </Flex>
            </Box>
          </Box>
        );
      })}
      <ImportPanel canExport={reviews.length > 0} />
    </Box>
  );
}

/** Progress as forty ticks, filled up to the share. */
function ProgressTicks({ share }: { share: number }) {
  const ticks = 40;
  const full = Math.floor(share * ticks + 1e-9);
  return (
    <svg width="200" height="12" aria-hidden style={{ display: "block", marginTop: 4 }}>
      {Array.from({ length: ticks }, (_, i) => i).map((i) => (
        <line
          key={i}
          x1={i * 5 + 1}
          x2={i * 5 + 1}
          y1={i < full ? 0 : 5}
          y2="12"
          stroke={i < full ? "var(--chakra-colors-ink)" : "var(--chakra-colors-tick)"}
          strokeWidth="1.5"
        />
      ))}
    </svg>
  );
}

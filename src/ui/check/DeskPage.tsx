"use client";

import { Box, chakra, Flex, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import type { DeskModel } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { FilterField } from "../forms/fields";
import { KeyHint } from "../review/controls";
import { useKeys } from "../review/useKeys";
import { effectText } from "./effectText";

/** The lab's open doubts by review, what could change a published number most first; Enter opens one where it is decided. */
export function DeskPage({ model }: { model: DeskModel }) {
  const router = useRouter();
  const [filter, setFilter] = useState("");
  const [at, setAt] = useState(0);
  const groups = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return model.reviews
      .map((review) => ({
        ...review,
        doubts: review.doubts.filter(({ check, setup, test, sentence }) =>
          `${review.title} ${check} ${setup} ${test ?? ""} ${sentence}`.toLowerCase().includes(wanted),
        ),
      }))
      .filter(({ doubts }) => doubts.length > 0);
  }, [model, filter]);
  const flat = groups.flatMap((review) => review.doubts.map((doubt) => ({ review, doubt })));
  const current = flat[Math.min(at, flat.length - 1)];
  const href = (reviewId: string, findingId: string) => `/reviews/${reviewId}/check?at=${encodeURIComponent(findingId)}`;
  const move = (by: number) => setAt(Math.max(0, Math.min(flat.length - 1, Math.min(at, flat.length - 1) + by)));
  useKeys({
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    j: () => move(1),
    k: () => move(-1),
    Enter: () => current && router.push(href(current.review.id, current.doubt.id)),
  });
  const total = model.reviews.reduce((sum, { doubts }) => sum + doubts.length, 0);
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Flex align="baseline" gap="6" mb="3" wrap="wrap">
        <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em">
          {total === 0 ? "No doubt is open" : `${total} ${total === 1 ? "doubt" : "doubts"} open`}
        </Text>
        <FilterField what="doubts" value={filter} onChange={setFilter} />
        <Flex ml="auto" gap="4" display={{ base: "none", md: "flex" }}>
          <KeyHint keys="↑ ↓" does="doubt" />
          <KeyHint keys="Enter" does="decide" />
        </Flex>
      </Flex>
      <TickRuler steps={12} minor={5} />
      {flat.length === 0 && (
        <Text py="8" color="quiet">
          {total === 0 ? "Every review's runs agree with each other and with their neighbours, or what was doubted is decided." : "No doubt fits the filter."}
        </Text>
      )}
      {groups.map((review) => (
        <Box key={review.id} mt="6" as="section" aria-label={review.title}>
          <Flex gap="4" align="baseline">
            <Text as="h2" textStyle="title">
              {review.title}
            </Text>
            <Text color="quiet">{review.doubts.length}</Text>
          </Flex>
          {review.doubts.map((doubt) => {
            const chosen = doubt.id === current?.doubt.id;
            return (
              <Link
                key={doubt.id}
                asChild
                display="grid"
                gridTemplateColumns={{ base: "1fr", md: "150px minmax(0, 1fr) 300px" }}
                columnGap="5"
                px="2"
                py="1.5"
                borderTop="1px solid"
                borderColor="hairline"
                bg={chosen ? "accentWash" : undefined}
                _hover={{ bg: chosen ? "accentWash" : "wash", textDecoration: "none" }}
                color="ink"
                alignItems="baseline"
              >
                <NextLink href={href(review.id, doubt.id)} aria-current={chosen ? "true" : undefined}>
                  <Text fontWeight="600" color="doubt">
                    {doubt.check}
                  </Text>
                  <Box minW="0">
                    <Text>
                      {doubt.setup}
                      {doubt.test && `, ${doubt.test}`}
                    </Text>
                    <Text color="quiet">{doubt.sentence}</Text>
                  </Box>
                  <chakra.span textStyle="figure" color="quiet" textAlign={{ md: "right" }}>
                    {effectText(doubt.effect)}
                  </chakra.span>
                </NextLink>
              </Link>
            );
          })}
        </Box>
      ))}
    </Box>
  );
}

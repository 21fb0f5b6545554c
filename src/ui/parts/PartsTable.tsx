"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { parseAsString, useQueryStates } from "nuqs";
import { useMemo, useState } from "react";
import type { PartKind } from "@/core/bench";
import type { PartLine } from "@/core/report";
import { daysBetween } from "@/core/units";
import { type Region, STALE_PRICE_DAYS } from "@/core/value";
import { TickRuler } from "../charts/TickRuler";
import { FilterField } from "../forms/fields";
import { InlineChoice } from "../review/controls";
import type { ActionAnswer } from "../review/ReviewContext";
import { UndoBar } from "../review/UndoBar";
import { PriceField } from "../value/PriceField";
import { priceText } from "../value/priceText";

interface Props {
  parts: PartLine[];
  regions: Region[];
  today: string;
  updateOffer: (input: { offerId: string; rowVersion: number; price: string }) => Promise<ActionAnswer<{ rowVersion: number; price: string }>>;
}

const KIND_NAMES: Record<PartKind, string> = {
  cpu: "processor",
  gpu: "graphics card",
  cooler: "cooler",
  board: "board",
  memory: "memory",
  psu: "power supply",
  storage: "storage",
  system: "system",
};

/** All parts of the lab with their facts and the prices seen in one region; a price can be typed over. */
export function PartsTable({ parts, regions, today, updateOffer }: Props) {
  const router = useRouter();
  const [{ find, region: code }, setState] = useQueryStates(
    { find: parseAsString.withDefault(""), region: parseAsString.withDefault(regions[0]?.code ?? "") },
    { history: "replace", shallow: true },
  );
  const [undo, setUndo] = useState<{ text: string; run: () => void } | undefined>(undefined);
  const region = regions.find((one) => one.code === code) ?? regions[0];
  const shown = useMemo(() => {
    const words = find.toLowerCase().split(/\s+/).filter(Boolean);
    return parts.filter((part) => {
      const text = [part.name, part.maker, KIND_NAMES[part.kind], ...part.facts.map(({ value, unit }) => `${value} ${unit ?? ""}`)].join(" ").toLowerCase();
      return words.every((word) => text.includes(word));
    });
  }, [parts, find]);
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16">
      <Flex align="center" gap="6" mb="3" wrap="wrap">
        <Text as="h1" textStyle="title">
          Parts and prices
        </Text>
        <FilterField what="parts" value={find} onChange={(text) => setState({ find: text || null })} hint="filter by name, kind, fact" width="240px" />
        {region && (
          <InlineChoice
            label="prices in"
            value={region.code}
            options={regions.map((one) => ({ value: one.code, label: `${one.name ?? one.code}, ${one.currency}` }))}
            onChange={(value) => setState({ region: value })}
          />
        )}
        <Text ml="auto" color="quiet">
          {shown.length} of {parts.length} parts, as of {today}
        </Text>
      </Flex>
      <TickRuler steps={12} minor={5} />
      {shown.length === 0 && (
        <Text py="8" color="quiet">
          {parts.length === 0 ? "No part yet; import a package with parts.csv." : "No part fits the filter."}
        </Text>
      )}
      {shown.map((part) => {
        const offers = part.offers
          .filter((offer) => offer.region === region?.code)
          .sort((a, b) => (a.kind === b.kind ? a.price.minor - b.price.minor : a.kind === "launch" ? -1 : 1));
        return (
          <Box
            key={part.id}
            py="3"
            borderBottom="1px solid"
            borderColor="hairline"
            display="grid"
            gridTemplateColumns={{ base: "1fr", md: "280px minmax(0, 1fr)", lg: "280px minmax(0, 1fr) 560px" }}
            columnGap="6"
            rowGap="2"
          >
            <Box>
              <Text fontWeight="600">{part.name}</Text>
              <Text textStyle="small" color="quiet">
                {[KIND_NAMES[part.kind], part.releasedOn && `released ${part.releasedOn}`].filter(Boolean).join(", ")}
              </Text>
            </Box>
            <Flex wrap="wrap" columnGap="5" alignContent="start">
              {part.facts.map((fact) => (
                <Text key={fact.key} textStyle="small">
                  <Box as="span" color="quiet">
                    {fact.key.replaceAll("_", " ")}
                  </Box>{" "}
                  {fact.value} {fact.unit}
                </Text>
              ))}
            </Flex>
            <Box gridColumn={{ md: "1 / -1", lg: "auto" }}>
              {offers.length === 0 && (
                <Text color="quiet" textStyle="small">
                  no price in {region?.name ?? "any region"}
                </Text>
              )}
              {offers.map((offer) => {
                const age = daysBetween(offer.seenOn, today);
                const stale = offer.kind === "street" && age > STALE_PRICE_DAYS;
                return (
                  <Box key={offer.id} display="grid" gridTemplateColumns="64px minmax(0, 1fr) 128px 46px" columnGap="3" alignItems="baseline">
                    <Text textStyle="small" color="quiet">
                      {offer.kind === "used_sold" ? "used, sold" : offer.kind}
                    </Text>
                    <Text textStyle="small" truncate color={stale ? "doubt" : "quiet"}>
                      {[
                        offer.shop,
                        offer.kind === "launch" ? `set ${offer.seenOn}` : stale ? `stale: ${age} days old` : `${age} d ago`,
                        offer.inStock === false && "not in stock",
                      ]
                        .filter(Boolean)
                        .join(", ")}
                    </Text>
                    <PriceField
                      offer={offer}
                      label={`${part.name}, ${offer.shop ?? offer.kind}, ${offer.price.currency}`}
                      save={updateOffer}
                      onSaved={(run) => {
                        setUndo(run && { text: `${part.name}: the price is recorded; it was ${priceText(offer.price.minor, offer.price.currency)}.`, run });
                        router.refresh();
                      }}
                    />
                    <Text color="quiet" textStyle="small">
                      {offer.price.currency}
                    </Text>
                  </Box>
                );
              })}
            </Box>
          </Box>
        );
      })}
      {undo && <UndoBar text={undo.text} onUndo={undo.run} onClose={() => setUndo(undefined)} />}
    </Box>
  );
}

"use client";

import { Box, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import { resolutionLabel } from "@/core/bench";
import { aggregateCell, cellKey } from "@/core/cell";
import { figure, signedPercent, valueOfReview } from "@/core/report";
import { amountToDecimal } from "@/core/units";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";
import { EvidenceHead, Fact, TestButtons } from "./EvidenceParts";

/** How a cost per frame came about: the price with its date and shop, the rate with its interval. */
export function ValueEvidence({ setupId }: { setupId: string }) {
  const { model } = useReview();
  const { baseline, resolution, region: regionCode, school } = useReviewState();
  const region = model.regions.find(({ code }) => code === regionCode);
  const setup = model.setups.find(({ id }) => id === setupId);
  const found = useMemo(
    () => region && valueOfReview(model, cachedMatrix(model, "result", school), { baselineId: baseline, resolution, region, rule: model.priceRule }),
    [model, region, baseline, resolution, school],
  );
  const line = found?.lines.find((one) => one.setupId === setupId);
  if (!region || !setup || !line || !found) return <Text>There is no price or rate for this setup here.</Text>;
  const meanText = (testKey: string) => {
    const mean = aggregateCell(cachedMatrix(model, "result", school).cells.get(cellKey(setupId, testKey))?.values ?? [])?.mean;
    return mean === undefined ? "" : `${figure(mean, 1)} ${model.tests.find(({ key }) => key === testKey)?.unit}`;
  };
  const { performance: rate } = line;
  const unit = found.per === "fps" ? "fps" : "index points";
  return (
    <Box>
      <EvidenceHead
        title={`Cost per ${found.per === "fps" ? "frame" : "index point"} of ${setup.label}`}
        subtitle={`${region.name ?? region.code}, ${resolution ? resolutionLabel(resolution) : "all resolutions"}`}
        value={line.costPerFrame === undefined ? "not known" : figure(line.costPerFrame)}
        unit={line.costPerFrame === undefined ? "" : `${region.currency} for each ${found.per === "fps" ? "frame per second" : "point of the index"}`}
        interval={
          line.costPerFrame !== undefined && rate?.low !== undefined && rate.high !== undefined && line.setupPrice.price !== undefined
            ? `${figure(line.setupPrice.price / rate.high)} to ${figure(line.setupPrice.price / rate.low)} by run noise; the price is taken as it is`
            : undefined
        }
        formula={
          found.per === "fps"
            ? `Its price divided by its geometric-mean rate over the ${found.testKeys.length} frame tests that all rows share.`
            : `Its price divided by the points of its index over ${found.testKeys.length} tests.`
        }
      />
      {line.setupPrice.problem && <Fact name="price">{line.setupPrice.problem}: no value, not zero</Fact>}
      {line.setupPrice.parts.map((part) => (
        <Box key={part.offer.id}>
          <Fact name="price">
            {amountToDecimal(part.money)} {part.money.currency}
          </Fact>
          <Fact name="seen">
            {part.offer.seenOn}, {part.ageDays} days before {model.today}
            {part.stale && (
              <Text as="span" color="doubt">
                {" "}
                stale
              </Text>
            )}
          </Fact>
          {part.offer.shop && <Fact name="shop">{part.offer.shop}</Fact>}
          {part.notes.length > 0 && <Fact name="basis">{part.notes.join(", ")}</Fact>}
        </Box>
      ))}
      <Fact name="rate">
        {rate
          ? `${figure(rate.value, 1)} ${unit}${rate.low !== undefined && rate.high !== undefined ? ` (${figure(rate.low, 1)} to ${figure(rate.high, 1)})` : ""}`
          : "not known"}
      </Fact>
      {line.relativeValue !== undefined && setupId !== baseline && (
        <Fact name="value against the baseline">{signedPercent(line.relativeValue)} frames for the money</Fact>
      )}
      {line.breakEvenPrice !== undefined && setupId !== baseline && (
        <Fact name="breaks even at">
          {figure(line.breakEvenPrice, 0)} {region.currency}
        </Fact>
      )}
      {line.marginalCostPerFrame !== undefined && (
        <Fact name="each frame more than the baseline">
          {figure(line.marginalCostPerFrame)} {region.currency}
        </Fact>
      )}
      <Text mt="5" mb="1" fontWeight="600">
        Tests behind the rate
      </Text>
      <TestButtons setupId={setupId} tests={found.testKeys.map((testKey) => ({ testKey, says: meanText(testKey) }))} />
    </Box>
  );
}

"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import { resolutionLabel } from "@/core/bench";
import { figure, signedPercent, valueOfReview } from "@/core/report";
import { RowMark, ScaleHead } from "../charts/RowScale";
import { linearScale } from "../charts/scale";
import { EvidenceNumber } from "../compare/IndexTable";
import { BaselineChoice, DeclaredDifferences, InlineChoice, KeyHint, OrderChoice, ResolutionChoice, StepFoot, StepHead } from "../review/controls";
import { cachedMatrix, useOrderedSetups, useReview, useReviewState } from "../review/ReviewContext";
import { rowStyle, SpineCell } from "../review/SpineCell";
import { UndoBar } from "../review/UndoBar";
import { useKeys } from "../review/useKeys";
import { PriceField } from "./PriceField";

const COLUMNS = { base: "minmax(130px, 1fr) 92px 80px", md: "240px 118px minmax(200px, 1fr) 92px 92px 100px" };

/** Price per frame in a region: editable prices, cost per frame with its run noise, value against the baseline, break-even. */
export function ValueStep() {
  const { model, actions } = useReview();
  const { baseline, resolution, region: regionCode, row, school, setState } = useReviewState();
  const router = useRouter();
  const ordered = useOrderedSetups();
  const [tried, setTried] = useState<ReadonlyMap<string, number>>(new Map());
  const [undo, setUndo] = useState<{ text: string; run: () => void } | undefined>(undefined);
  const region = model.regions.find(({ code }) => code === regionCode) ?? model.regions[0];
  const value = useMemo(
    () =>
      region &&
      valueOfReview(model, cachedMatrix(model, "result", school), { baselineId: baseline, resolution, region, rule: model.priceRule, overrides: tried }),
    [model, school, baseline, resolution, region, tried],
  );
  useKeys({ Escape: () => setState({ show: null }), e: () => row && setState({ show: `value:${row}` }) });
  if (!region || !value) return <Text color="quiet">The lab has no region yet; import regions and offers to see what frames cost.</Text>;

  const cost = new Map(value.lines.map((line) => [line.setupId, line]));
  const ranked = [...value.lines].filter((line) => line.costPerFrame !== undefined).sort((a, b) => (a.costPerFrame as number) - (b.costPerFrame as number));
  const rankOf = (setupId: string) => {
    const at = ranked.findIndex((line) => line.setupId === setupId);
    return at < 0 ? undefined : String(at + 1);
  };
  const costs = ranked.flatMap(({ costPerFrame, setupPrice, performance: rate }) => [
    costPerFrame as number,
    ...(rate?.low ? [(setupPrice.price as number) / rate.low] : []),
    ...(rate?.high ? [(setupPrice.price as number) / rate.high] : []),
  ]);
  const scale = costs.length > 0 ? linearScale(Math.min(...costs) * 0.98, Math.max(...costs) * 1.02) : undefined;
  const baseLine = cost.get(baseline);
  const offerOf = (partId: string) => [...cost.values()].flatMap((line) => line.setupPrice.parts).find((part) => part.offer.partId === partId)?.offer;
  return (
    <Box>
      <StepHead title={`What does ${value.per === "fps" ? "a frame" : "a point"} cost in ${region.name ?? region.code}?`}>
        <InlineChoice
          label="region"
          value={region.code}
          options={model.regions.map(({ code, name, currency }) => ({ value: code, label: `${name ?? code}, ${currency}` }))}
          onChange={(code) => setState({ region: code })}
        />
        <ResolutionChoice overall={false} />
        <BaselineChoice />
        <OrderChoice />
      </StepHead>
      <Box role="table" aria-label="Price per frame">
        <Box role="row" display="grid" gridTemplateColumns={COLUMNS} columnGap="5" alignItems="end">
          <Text role="columnheader" color="quiet" pl="34px">
            Setup
          </Text>
          <Text role="columnheader" color="quiet" textAlign="right">
            price, {region.currency}
          </Text>
          <Box role="columnheader" display={{ base: "none", md: "block" }} aria-label={`cost per frame, ${region.currency}`}>
            {scale && <ScaleHead scale={scale} label={(tick) => figure(tick)} />}
          </Box>
          <Text role="columnheader" color="quiet" textAlign="right">
            {region.currency} per {value.per === "fps" ? "fps" : "point"}
          </Text>
          <Text role="columnheader" color="quiet" textAlign="right" display={{ base: "none", md: "block" }}>
            value
          </Text>
          <Text role="columnheader" color="quiet" textAlign="right" display={{ base: "none", md: "block" }}>
            breaks even
          </Text>
        </Box>
        {ordered.map((setup) => {
          const line = cost.get(setup.id);
          if (!line) return null;
          const { setupPrice, performance: rate, costPerFrame } = line;
          const [part] = setupPrice.parts;
          const offer = setup.partIds.length === 1 ? offerOf(setup.partIds[0] as string) : undefined;
          const isBase = setup.id === baseline;
          const isTried = setup.partIds.some((id) => tried.has(id));
          const bound = (by: number | undefined) => (by && setupPrice.price !== undefined ? setupPrice.price / by : undefined);
          return (
            <Box role="row" key={setup.id} display="grid" gridTemplateColumns={COLUMNS} columnGap="5" {...rowStyle(row === setup.id)} data-value-row={setup.id}>
              <Box role="cell" minW="0">
                <SpineCell setup={setup} rank={rankOf(setup.id)} />
              </Box>
              <Box role="cell" py="1">
                {offer && part ? (
                  <PriceField
                    offer={offer}
                    label={`Price of ${setup.label} in ${region.currency}`}
                    save={actions.updateOffer}
                    onTry={(price) =>
                      setTried((before) => {
                        const next = new Map(before);
                        if (price === undefined) next.delete(offer.partId);
                        else next.set(offer.partId, price);
                        return next;
                      })
                    }
                    onSaved={(run) => {
                      setUndo(run && { text: `The price of ${setup.label} is recorded.`, run });
                      router.refresh();
                    }}
                  />
                ) : (
                  <Text textAlign="right" textStyle="figureStrong">
                    {setupPrice.price === undefined ? "–" : figure(setupPrice.price, 0)}
                  </Text>
                )}
                <Text textStyle="small" textAlign="right" color={setupPrice.stale || setupPrice.problem ? "doubt" : "quiet"} lineHeight="15px">
                  {isTried
                    ? "tried"
                    : (setupPrice.problem ??
                      (part && (model.priceRule === "launch" ? "launch" : setupPrice.stale ? `stale: ${part.ageDays} days old` : `${part.ageDays} d ago`)))}
                </Text>
              </Box>
              <Box role="cell" display={{ base: "none", md: "block" }}>
                {scale && (
                  <RowMark
                    scale={scale}
                    height={52}
                    base={baseLine?.costPerFrame}
                    marks={
                      costPerFrame === undefined
                        ? undefined
                        : {
                            value: costPerFrame,
                            low: bound(rate?.high),
                            high: bound(rate?.low),
                            hollow: isBase,
                            selected: row === setup.id || isTried,
                            doubtful: setupPrice.stale,
                          }
                    }
                  />
                )}
              </Box>
              <Box role="cell">
                <EvidenceNumber
                  show={`value:${setup.id}`}
                  label={`${setup.label}, cost per frame ${costPerFrame === undefined ? "not known" : figure(costPerFrame)}`}
                  sub={line.onFrontier ? "on the frontier" : ""}
                >
                  <span data-cost={setup.id}>{costPerFrame === undefined ? "–" : figure(costPerFrame)}</span>
                </EvidenceNumber>
              </Box>
              <Box role="cell" display={{ base: "none", md: "block" }}>
                <EvidenceNumber
                  show={`value:${setup.id}`}
                  label={`${setup.label}, value ${line.relativeValue === undefined ? "not known" : signedPercent(line.relativeValue)}`}
                  sub={isBase ? "baseline" : line.relativeValue === undefined ? "" : line.relativeValue >= 1 ? "better value" : "worse value"}
                >
                  {isBase ? "100 %" : line.relativeValue === undefined ? "–" : signedPercent(line.relativeValue)}
                </EvidenceNumber>
              </Box>
              <Box role="cell" display={{ base: "none", md: "block" }}>
                <EvidenceNumber
                  show={`value:${setup.id}`}
                  label={`${setup.label}, breaks even at ${line.breakEvenPrice === undefined ? "no known price" : figure(line.breakEvenPrice, 0)}`}
                  sub={rate ? `${figure(rate.value, 1)} ${value.per === "fps" ? "fps" : "points"}` : "no shared test"}
                >
                  {isBase || line.breakEvenPrice === undefined ? "–" : figure(line.breakEvenPrice, 0)}
                </EvidenceNumber>
              </Box>
            </Box>
          );
        })}
        <Box borderTop="1px solid" borderColor="hairline" />
      </Box>
      <Text mt="3" color="quiet" fontSize="13px">
        Price by {model.priceRule === "launch" ? "launch price" : "the lowest new street price in stock"}, {region.taxIncluded ? "tax included" : "before tax"},
        shipping added where known, as of {model.today}.{" "}
        {value.per === "fps" ? "Rate: geometric mean" : "No test counts frames, so points of the index are bought: geometric mean"} over {value.testKeys.length}{" "}
        tests
        {resolution ? ` at ${resolutionLabel(resolution)}` : ""}. A price older than 14 days is stale.
      </Text>
      {undo && <UndoBar text={undo.text} onUndo={undo.run} onClose={() => setUndo(undefined)} />}
      <DeclaredDifferences />
      <StepFoot
        legend={
          <Flex gap="4" wrap="wrap">
            <span>● price ÷ rate</span>
            <span>├─┤ run noise of the rate; the price is taken as it is</span>
            <span>┊ baseline</span>
          </Flex>
        }
      >
        <KeyHint keys="Enter" does="record a typed price" />
        <KeyHint keys="E" does="evidence" />
      </StepFoot>
    </Box>
  );
}

"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { parseAsString, useQueryStates } from "nuqs";
import type { ReactNode } from "react";
import { propertyName, resolutionLabel } from "@/core/bench";
import { columnDecimals, figure, type RankingSnapshot, type Snapshot, signedPercent } from "@/core/report";
import { RowMark, ScaleHead } from "../charts/RowScale";
import { linearScale } from "../charts/scale";
import { TickRuler } from "../charts/TickRuler";
import { rankText, verdictWords } from "../compare/verdictWords";
import { InlineChoice, SCHOOL_NAMES } from "../review/controls";

interface Props {
  report: { version: number; newestVersion: number; publishedAt: string; snapshot: Snapshot };
}

const OVERALL = "all";
const PLACES = { device: "at the device itself", package: "at the processor package", wall: "at the wall" } as const;

/** A page for buyers: the verdict, three rankings, the games, the facts, the conditions. Everything comes from one frozen snapshot. */
export function PublishedPage({ report }: Props) {
  const { snapshot } = report;
  const [{ at, region }, setState] = useQueryStates(
    { at: parseAsString.withDefault(snapshot.mainResolution ?? OVERALL), region: parseAsString.withDefault(snapshot.value[0]?.region ?? "") },
    { history: "replace", shallow: true },
  );
  const resolution = snapshot.resolutions.includes(at) ? at : null;
  const labelOf = (id: string) => snapshot.setups.find((setup) => setup.id === id)?.label ?? id;
  const ranking = (metric: string) => snapshot.rankings.find((one) => one.metric === metric && one.resolution === resolution);
  const rates = ranking("result");
  const lows = ranking("low1");
  const efficiency = ranking("frames_per_joule");
  const regions = [...new Map(snapshot.value.map((one) => [one.region, one])).values()];
  const value = snapshot.value.find((one) => one.region === region && one.resolution === (resolution ?? snapshot.mainResolution)) ?? snapshot.value[0];
  const resolutionChoice = (
    <InlineChoice
      label="at"
      value={resolution ?? OVERALL}
      options={[...snapshot.resolutions.map((one) => ({ value: one, label: resolutionLabel(one) })), { value: OVERALL, label: "all resolutions" }]}
      onChange={(next) => setState({ at: next })}
    />
  );
  return (
    <Box as="main" maxW="820px" mx="auto" px={{ base: 4, md: 6 }} pt={{ base: 6, md: 12 }} pb="20" fontSize={{ base: "15px", md: "16px" }} lineHeight="1.5">
      <Text as="h1" fontSize={{ base: "32px", md: "46px" }} lineHeight="1.08" fontWeight="650" letterSpacing="-0.02em">
        {snapshot.title}
      </Text>
      {snapshot.question && (
        <Text fontSize={{ base: "18px", md: "21px" }} mt="3" color="quiet">
          {snapshot.question}
        </Text>
      )}
      <Text mt="3" color="quiet" fontSize="14px">
        Version {report.version}, {report.publishedAt.slice(0, 10)}; prices of {snapshot.priceDay}
        {report.version < report.newestVersion && <>. A newer version supersedes this one.</>}
      </Text>
      <Box mt="6">
        <TickRuler steps={8} minor={5} />
      </Box>
      {snapshot.claims.length > 0 && (
        <Box mt="5" mb="10" as="section" aria-label="Verdict">
          {snapshot.claims.map(({ sentence }) => (
            <Text key={sentence} fontSize={{ base: "18px", md: "20px" }} lineHeight="1.4" mb="3">
              {sentence}
            </Text>
          ))}
        </Box>
      )}

      <Section title="How fast" controls={resolutionChoice}>
        {rates && rates.rows.length > 0 ? (
          <RankRows ranking={rates} lows={lows} snapshot={snapshot} unit="index" />
        ) : (
          <Text>Not all cards could be compared here.</Text>
        )}
        <Note>
          {labelOf(snapshot.baselineId)} is 100; the point is the geometric mean over {rates?.workloads} workloads, the ring the 1 % low (
          {SCHOOL_NAMES[snapshot.lowSchool]}), fine ticks are single tests. Whiskers cover re-running only, 95 %: not other samples, days or games. Two rows
          within {figure(100 * snapshot.margin, 0)} % count as level. Ranks that the data leave open are shown as ranges.
          {rates && rates.leftOut.length > 0 && <> Left out for all: {rates.leftOut.map(({ testKey }) => testName(snapshot, testKey)).join(", ")}.</>}
        </Note>
      </Section>

      {value?.rows.some(({ price }) => price !== null) && (
        <Section
          title="What a frame costs"
          controls={
            <>
              <InlineChoice
                label="in"
                value={value.region}
                options={regions.map((one) => ({ value: one.region, label: `${one.regionName}, ${one.currency}` }))}
                onChange={(next) => setState({ region: next })}
              />
              {resolutionChoice}
            </>
          }
        >
          <ValueRows value={value} snapshot={snapshot} />
          <Note>
            {value.per === "fps" ? "Price divided by the geometric-mean frame rate" : "Price divided by points of the index"}
            {value.resolution ? ` at ${resolutionLabel(value.resolution)}` : ""}. Prices move: those of {snapshot.priceDay} are used, the lowest new one in
            stock.
          </Note>
        </Section>
      )}

      {efficiency && efficiency.rows.length > 0 && (
        <Section title="What a joule gives" controls={resolutionChoice}>
          <RankRows ranking={efficiency} snapshot={snapshot} unit="efficiency" />
          <Note>
            Frames per joule (the same as fps per watt), {labelOf(snapshot.baselineId)} is 100. Power metered{" "}
            {snapshot.powerAt ? PLACES[snapshot.powerAt] : "nowhere"}, over the same seconds as the frames; idle is not subtracted.
          </Note>
        </Section>
      )}

      <Section title={lows?.rows.length ? "Game by game" : "Test by test"} controls={resolutionChoice}>
        <GamesTable snapshot={snapshot} resolution={resolution ?? snapshot.mainResolution} />
        <Note>{tableNote(snapshot)}</Note>
      </Section>

      <Section title="What no test measures">
        <FactsTable snapshot={snapshot} />
      </Section>

      <Section title="How it was measured">
        <Conditions snapshot={snapshot} />
      </Section>
    </Box>
  );
}

function testName(snapshot: Snapshot, key: string): string {
  const test = snapshot.tests.find((one) => one.key === key);
  return test ? `${test.workload}${test.resolution ? ` ${resolutionLabel(test.resolution)}` : ""}` : key;
}

/** What the numbers of the table are. */
function tableNote(snapshot: Snapshot): string {
  const units = [...new Set(snapshot.tests.map(({ unit }) => unit))];
  return units.join() === "fps" ? "Average frames per second, the 1 % low below it." : `Mean of the valid runs, in ${units.join(", ")}.`;
}

function Section({ title, controls, children }: { title: string; controls?: ReactNode; children: ReactNode }) {
  return (
    <Box as="section" mt="10">
      <Flex align="center" columnGap="5" rowGap="1" wrap="wrap" mb="2">
        <Text as="h2" fontSize="22px" fontWeight="620" letterSpacing="-0.01em" lineHeight="30px">
          {title}
        </Text>
        {controls}
      </Flex>
      {children}
    </Box>
  );
}

function Note({ children }: { children: ReactNode }) {
  return (
    <Text mt="2" fontSize="13.5px" lineHeight="1.45" color="quiet">
      {children}
    </Text>
  );
}

const COLUMNS = { base: "minmax(0, 1fr) 62px", md: "190px minmax(0, 1fr) 62px 120px" };

function RankRows({
  ranking,
  lows,
  snapshot,
  unit,
}: {
  ranking: RankingSnapshot;
  lows?: RankingSnapshot | undefined;
  snapshot: Snapshot;
  unit: "index" | "efficiency";
}) {
  const rows = [...ranking.rows].sort((a, b) => b.index - a.index);
  const lowOf = (id: string) => lows?.rows.find(({ setupId }) => setupId === id)?.index;
  const points = rows.flatMap((row) => [
    100 * row.index,
    ...row.ratios.map((ratio) => 100 * ratio),
    ...(lowOf(row.setupId) === undefined ? [] : [100 * (lowOf(row.setupId) as number)]),
  ]);
  const scale = linearScale(Math.min(...points, 97), Math.max(...points, 103), 6);
  const decimals = columnDecimals(ranking.rows);
  return (
    <Box role="table" aria-label={unit === "index" ? "Relative performance" : "Performance per watt"}>
      <Box display={{ base: "none", md: "grid" }} gridTemplateColumns={COLUMNS} columnGap="4" aria-hidden>
        <span />
        <ScaleHead scale={scale} label={(value) => figure(value, 0)} />
      </Box>
      {rows.map((row) => {
        const setup = snapshot.setups.find(({ id }) => id === row.setupId);
        const isBase = row.setupId === snapshot.baselineId;
        const half = row.low !== null && row.high !== null ? (100 * (row.high - row.low)) / 2 : undefined;
        const words = verdictWords({ verdict: row.verdict, furtherRuns: row.furtherRuns ?? undefined });
        const mark = (
          <RowMark
            scale={scale}
            base={100}
            margin={snapshot.margin}
            height={46}
            marks={{
              value: 100 * row.index,
              low: row.low === null ? undefined : 100 * row.low,
              high: row.high === null ? undefined : 100 * row.high,
              ring: isBase || lowOf(row.setupId) === undefined ? undefined : 100 * (lowOf(row.setupId) as number),
              ticks: isBase ? [] : row.ratios.map((ratio) => 100 * ratio),
              hollow: isBase,
              selected: setup?.role === "subject",
            }}
          />
        );
        const low = lowOf(row.setupId);
        return (
          <Box
            role="row"
            key={row.setupId}
            borderTop="1px solid"
            borderColor="hairline"
            display="grid"
            gridTemplateColumns={COLUMNS}
            columnGap="4"
            alignItems="center"
            py={{ base: 2, md: 0 }}
          >
            <Box role="cell" minW="0">
              <Text fontWeight="600" color={setup?.role === "subject" ? "accent.fg" : "ink"} lineHeight="20px">
                <Box as="span" color="quiet" fontWeight="400" mr="2" textStyle="figure">
                  {rankText(row)}
                </Box>
                {setup?.label}
              </Text>
              <Text display={{ base: "block", md: "none" }} fontSize="13px" color="quiet">
                {isBase ? "baseline" : words.says}
                {low !== undefined && `, low ${figure(100 * low, 1)}`}
              </Text>
            </Box>
            <Box role="cell" display={{ base: "none", md: "block" }}>
              {mark}
            </Box>
            <Box role="cell" textAlign="right">
              <Text textStyle="figureStrong">{isBase ? "100" : figure(100 * row.index, decimals)}</Text>
              <Text textStyle="small" color="quiet">
                {isBase || half === undefined ? "" : `± ${figure(half, decimals)}`}
              </Text>
            </Box>
            <Text role="cell" display={{ base: "none", md: "block" }} fontSize="14px" color="quiet" lineHeight="18px">
              {isBase ? "baseline" : words.says}
              {unit === "index" && low !== undefined && !isBase && (
                <>
                  <br />
                  low {figure(100 * low, 1)}
                </>
              )}
            </Text>
            <Box gridColumn="1 / -1" display={{ base: "block", md: "none" }} px="1" aria-hidden>
              {mark}
            </Box>
          </Box>
        );
      })}
      <Box display={{ base: "block", md: "none" }} px="1" aria-hidden>
        <ScaleHead scale={scale} label={(value) => figure(value, 0)} />
      </Box>
    </Box>
  );
}

function ValueRows({ value, snapshot }: { value: Snapshot["value"][number]; snapshot: Snapshot }) {
  const rows = [...value.rows].sort((a, b) => (a.costPerFrame ?? Number.POSITIVE_INFINITY) - (b.costPerFrame ?? Number.POSITIVE_INFINITY));
  const costs = rows.flatMap(({ costPerFrame }) => (costPerFrame === null ? [] : [costPerFrame]));
  if (costs.length === 0) return <Text>No price is known here.</Text>;
  const scale = linearScale(Math.min(...costs) * 0.97, Math.max(...costs) * 1.03, 5);
  const columns = { base: "minmax(0, 1fr) 96px 72px", md: "190px minmax(0, 1fr) 110px 72px 96px" };
  return (
    <Box role="table" aria-label="Price per frame">
      <Box display="grid" gridTemplateColumns={columns} columnGap="4" alignItems="end" fontSize="13px" color="quiet">
        <span />
        <Box display={{ base: "none", md: "block" }}>
          <ScaleHead scale={scale} label={(tick) => figure(tick)} />
        </Box>
        <Text textAlign="right">price, {value.currency}</Text>
        <Text textAlign="right">per {value.per === "fps" ? "fps" : "point"}</Text>
        <Text textAlign="right" display={{ base: "none", md: "block" }}>
          value
        </Text>
      </Box>
      {rows.map((row) => {
        const setup = snapshot.setups.find(({ id }) => id === row.setupId);
        const isBase = row.setupId === snapshot.baselineId;
        return (
          <Box
            role="row"
            key={row.setupId}
            borderTop="1px solid"
            borderColor="hairline"
            display="grid"
            gridTemplateColumns={columns}
            columnGap="4"
            alignItems="center"
            minH="46px"
          >
            <Text role="cell" fontWeight="600" color={setup?.role === "subject" ? "accent.fg" : "ink"} lineHeight="20px">
              {setup?.label}
            </Text>
            <Box role="cell" display={{ base: "none", md: "block" }}>
              <RowMark
                scale={scale}
                height={42}
                marks={row.costPerFrame === null ? undefined : { value: row.costPerFrame, hollow: isBase, selected: setup?.role === "subject" }}
              />
            </Box>
            <Box role="cell" textAlign="right">
              <Text textStyle="figure" fontSize="16px">
                {row.price === null ? "–" : figure(row.price, 0)}
              </Text>
              <Text textStyle="small" color={row.stale || row.problem ? "doubt" : "quiet"} lineHeight="15px">
                {row.problem ?? `${row.stale ? "old: " : ""}${row.seenOn ?? ""}`}
              </Text>
            </Box>
            <Text role="cell" textAlign="right" textStyle="figureStrong">
              {row.costPerFrame === null ? "–" : figure(row.costPerFrame)}
            </Text>
            <Text role="cell" textAlign="right" display={{ base: "none", md: "block" }} fontSize="14px" color="quiet">
              {isBase ? "baseline" : row.relativeValue === null ? "not known" : signedPercent(row.relativeValue)}
            </Text>
          </Box>
        );
      })}
    </Box>
  );
}

const TABLE_CSS = {
  "& th, & td": {
    padding: "5px 0 5px 14px",
    borderTop: "1px solid var(--chakra-colors-hairline)",
    textAlign: "right",
    fontWeight: 400,
    verticalAlign: "top",
    fontStretch: "84%",
  },
  "& th:first-of-type": { textAlign: "left", paddingLeft: 0 },
  "& thead th": { color: "var(--chakra-colors-quiet)", fontSize: "13px", lineHeight: "16px", borderTop: "none", verticalAlign: "bottom" },
} as const;

function GamesTable({ snapshot, resolution }: { snapshot: Snapshot; resolution: string | null }) {
  const tests = snapshot.tests.filter((test) => test.resolution === resolution || test.resolution === null);
  const cell = new Map(snapshot.cells.map((one) => [`${one.setupId}/${one.testKey}`, one]));
  return (
    <Box overflowX="auto" tabIndex={0} role="region" aria-label="Game by game, scrolls sideways">
      <chakra.table w="full" minW="640px" css={TABLE_CSS}>
        <thead>
          <tr>
            <th scope="col">{resolution ? resolutionLabel(resolution) : ""}</th>
            {snapshot.setups.map(({ id, label }) => (
              <th scope="col" key={id}>
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {tests.map((test) => (
            <tr key={test.key}>
              <th scope="row">{test.workload}</th>
              {snapshot.setups.map(({ id }) => {
                const found = cell.get(`${id}/${test.key}`);
                return (
                  <td key={id}>
                    {found?.mean == null ? (found?.failed ? "failed" : "–") : figure(found.mean, found.mean >= 100 ? 0 : 1)}
                    <Text as="span" display="block" color="quiet" fontSize="13px" lineHeight="16px">
                      {found?.low1 == null ? "" : figure(found.low1, found.low1 >= 100 ? 0 : 1)}
                    </Text>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}

/** Facts side by side, those that differ first. */
function FactsTable({ snapshot }: { snapshot: Snapshot }) {
  const keys = [...new Set(snapshot.setups.flatMap(({ facts }) => facts.map(({ key }) => key)))];
  const valueOf = (setup: Snapshot["setups"][number], key: string) => {
    const fact = setup.facts.find((one) => one.key === key);
    return fact ? [fact.value, fact.unit].filter(Boolean).join(" ") : "not known";
  };
  const differing = (key: string) => new Set(snapshot.setups.map((setup) => valueOf(setup, key))).size;
  const ordered = keys.sort((a, b) => differing(b) - differing(a) || (a < b ? -1 : 1));
  if (ordered.length === 0) return <Text color="quiet">No facts are recorded.</Text>;
  return (
    <Box overflowX="auto" tabIndex={0} role="region" aria-label="Facts, scrolls sideways">
      <chakra.table w="full" minW="640px" css={TABLE_CSS}>
        <thead>
          <tr>
            <th scope="col" aria-label="Fact" />
            {snapshot.setups.map(({ id, label }) => (
              <th scope="col" key={id}>
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ordered.map((key) => (
            <tr key={key}>
              <th scope="row">{key.replaceAll("_", " ")}</th>
              {snapshot.setups.map((setup) => (
                <td key={setup.id}>{valueOf(setup, key)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}

function Conditions({ snapshot }: { snapshot: Snapshot }) {
  const settings = [...new Set(snapshot.tests.map((test) => test.settings.split(" · ").slice(1).filter(Boolean).join(", ")))];
  const open = snapshot.doubts.filter(({ state }) => state === "open");
  const settled = snapshot.doubts.filter(({ state }) => state !== "open");
  const label = (id: string) => snapshot.setups.find((setup) => setup.id === id)?.label ?? id;
  return (
    <Box fontSize="14.5px">
      {snapshot.notHeld.length > 0 && (
        <Text mb="2">
          Not the same for all:{" "}
          {snapshot.notHeld.map(({ property, why }) => `${propertyName(property.replace("part:", ""))} (${why ?? "no reason given"})`).join("; ")}.
        </Text>
      )}
      {snapshot.bench.map((bench) => (
        <Text key={`${bench.name}-${bench.revision}`} mb="2">
          {bench.name}, revision {bench.revision}: {bench.parts.map(({ name }) => name).join(", ")}.{" "}
          {bench.state.map(({ key, value }) => `${key.replaceAll("_", " ")} ${value}`).join("; ")}.
        </Text>
      ))}
      <Text mb="2">
        {snapshot.tests.length} tests, {snapshot.runIds.length} valid runs. Settings: {settings.slice(0, 6).join("; or ")}.
      </Text>
      <Text mb="2">
        Index: geometric mean of ratios, equal weight a workload, method {snapshot.methodVersion}. Intervals: repeatability pooled over each test, on
        logarithms, Student's t. One sample of each card was tested.
      </Text>
      {open.length > 0 && (
        <Box mb="2" color="doubt">
          <Text fontWeight="600">Published with open doubts</Text>
          {open.map((doubt) => (
            <Text key={`${doubt.check}${doubt.setupId}${doubt.testKey}`}>
              {label(doubt.setupId)}, {testName(snapshot, doubt.testKey)}: {doubt.sentence}
            </Text>
          ))}
        </Box>
      )}
      {settled.length > 0 && (
        <Box>
          <Text fontWeight="600">Doubts that were settled</Text>
          {settled.map((doubt) => (
            <Text key={`${doubt.check}${doubt.setupId}${doubt.testKey}`} color="quiet">
              {label(doubt.setupId)}, {testName(snapshot, doubt.testKey)}: {doubt.check}, {doubt.state}, {doubt.reason}
            </Text>
          ))}
        </Box>
      )}
    </Box>
  );
}

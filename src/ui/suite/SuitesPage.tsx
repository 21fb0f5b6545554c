"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useState } from "react";
import { definitionGaps } from "@/core/bench";
import type { SuiteLine, SuitesModel, TestLine } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { FilterField } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";
import { SuiteEditor } from "./SuiteEditor";
import { TestEditor } from "./TestEditor";

export interface SuiteActions {
  defineTests: (input: unknown) => Promise<ActionAnswer<{ added: string[]; same: number }>>;
  editSuite: (input: unknown) => Promise<ActionAnswer<{ rowVersion: number }>>;
}

type Doing = { kind: "suite"; suite?: SuiteLine; from?: SuiteLine } | { kind: "test"; base?: TestLine };

/** The lab's suites and the tests they are made of, each with its written definition and versions. */
export function SuitesPage({ model, actions }: { model: SuitesModel; actions: SuiteActions }) {
  const [chosen, setChosen] = useQueryState("suite", parseAsString);
  const [doing, setDoing] = useState<Doing | undefined>(undefined);
  const [said, setSaid] = useState<string | undefined>(undefined);
  const [filter, setFilter] = useState("");
  const [open, setOpen] = useState<string | undefined>(undefined);
  const wanted = filter.trim().toLowerCase();
  const tests = model.tests.filter((test) =>
    `${test.name} ${test.workloadName} ${test.group} ${test.kind} ${test.preset ?? ""} ${test.loads ?? ""}`.toLowerCase().includes(wanted),
  );
  const suite = model.suites.find(({ id }) => id === chosen);
  const close = (message?: string) => {
    setDoing(undefined);
    setSaid(message);
  };
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Flex align="baseline" gap="5" mb="3" wrap="wrap">
        <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em">
          Suites and tests
        </Text>
        {said && (
          <Text role="status" color="quiet">
            {said}
          </Text>
        )}
        <Flex ml="auto" gap="3">
          <Button size="sm" variant="outline" onClick={() => setDoing({ kind: "test" })}>
            Define tests
          </Button>
          <Button size="sm" onClick={() => setDoing({ kind: "suite" })}>
            New suite
          </Button>
        </Flex>
      </Flex>
      <TickRuler steps={12} minor={5} />
      <Box mt="4">
        {doing?.kind === "suite" && (
          <SuiteEditor
            key={`${doing.suite?.id}${doing.from?.id}`}
            suite={doing.suite}
            from={doing.from}
            tests={model.tests}
            editSuite={actions.editSuite}
            onClose={(id) => {
              close(id ? "The suite is saved." : undefined);
              if (id) void setChosen(id);
            }}
          />
        )}
        {doing?.kind === "test" && (
          <TestEditor key={doing.base?.key ?? "new"} model={model} base={doing.base} defineTests={actions.defineTests} onClose={close} />
        )}
        {!doing && (
          <Grid templateColumns={{ base: "1fr", lg: "320px minmax(0, 1fr)" }} gap="10">
            <Box>
              {model.suites.length === 0 && <Text color="quiet">No suite yet: make one from the tests, or define tests first.</Text>}
              {model.suites.map((one) => (
                <Box key={one.id} py="2" borderBottom="1px solid" borderColor="hairline" bg={one.id === chosen ? "accentWash" : undefined}>
                  <chakra.button
                    type="button"
                    fontWeight="600"
                    cursor="pointer"
                    textAlign="left"
                    aria-pressed={one.id === chosen}
                    onClick={() => void setChosen(one.id === chosen ? null : one.id)}
                  >
                    {one.name}
                  </chakra.button>
                  <Text textStyle="small" color="quiet">
                    {one.tests.length} tests, {one.tests.reduce((sum, { runs }) => sum + runs, 0)} runs a row
                    {one.reviews.length > 0 ? `; ${one.reviews.map(({ title }) => title).join(", ")}` : ""}
                  </Text>
                  <Flex gap="3" mt="1">
                    <Button size="2xs" variant="outline" onClick={() => setDoing({ kind: "suite", suite: one })}>
                      Edit
                    </Button>
                    <Button size="2xs" variant="outline" onClick={() => setDoing({ kind: "suite", from: one })}>
                      Clone
                    </Button>
                  </Flex>
                </Box>
              ))}
            </Box>
            <Box minW="0">
              <Flex align="baseline" gap="4" mb="1">
                <Text fontWeight="600">{suite ? suite.name : "All tests"}</Text>
                <FilterField what="tests" value={filter} onChange={setFilter} />
                <Text color="quiet" ml="auto">
                  {tests.length} of {model.tests.length}
                </Text>
              </Flex>
              {tests
                .filter(({ key }) => !suite || suite.tests.some(({ testKey }) => testKey === key))
                .slice(0, 400)
                .map((test) => (
                  <TestRow
                    key={test.key}
                    test={test}
                    runs={suite?.tests.find(({ testKey }) => testKey === test.key)?.runs}
                    open={open === test.key}
                    onToggle={() => setOpen(open === test.key ? undefined : test.key)}
                    onEdit={() => setDoing({ kind: "test", base: test })}
                  />
                ))}
            </Box>
          </Grid>
        )}
      </Box>
    </Box>
  );
}

/** A test in one line; opened, its whole definition. */
function TestRow({
  test,
  runs,
  open,
  onToggle,
  onEdit,
}: {
  test: TestLine;
  runs: number | undefined;
  open: boolean;
  onToggle: () => void;
  onEdit: () => void;
}) {
  const gaps = definitionGaps(test);
  const lines: [string, string | number | null][] = [
    ["workload", `${test.workloadName}, ${test.group}`],
    ["data set", [test.dataSet, test.sha256 && `SHA-256 ${test.sha256.slice(0, 16)}…`].filter(Boolean).join(", ") || null],
    ["scene", test.scene],
    ["resolution", test.resolution?.replace("x", " × ") ?? null],
    [
      "settings",
      [
        test.preset && `preset ${test.preset}`,
        test.rayTracing && `ray tracing ${test.rayTracing}`,
        test.upscaling && `upscaling ${test.upscaling}`,
        test.frameGeneration && `frame generation ${test.frameGeneration}`,
        test.api,
      ]
        .filter(Boolean)
        .join(", ") || null,
    ],
    ["watch", [test.startAt && `from ${test.startAt}`, test.stopAt && `to ${test.stopAt}`].filter(Boolean).join(" ") || null],
    ["times", `launch ${test.loadS ?? "?"} s, warm-up ${test.warmupS ?? "?"} s, length ${test.lengthS ?? "?"} s, reset ${test.resetS ?? "?"} s`],
    ["start", test.cache],
    ["definition", test.definition],
  ];
  return (
    <Box borderTop="1px solid" borderColor="hairline">
      <chakra.button
        type="button"
        display="grid"
        gridTemplateColumns="minmax(0, 1fr) 70px 80px 90px 80px"
        gap="3"
        w="full"
        textAlign="left"
        py="1"
        cursor="pointer"
        aria-expanded={open}
        onClick={onToggle}
        _hover={{ bg: "wash" }}
      >
        <Text truncate fontWeight="500" color={test.newest ? "ink" : "quiet"}>
          {test.name}
        </Text>
        <Text color="quiet">{test.version > 1 || !test.newest ? `version ${test.version}` : ""}</Text>
        <Text color="quiet">
          {test.kind}, {test.unit}
        </Text>
        <Text color={gaps.length > 0 ? "doubt" : "quiet"}>{gaps.length > 0 ? `${gaps.length} not said` : test.loads}</Text>
        <Text textStyle="figure" color="quiet" textAlign="right">
          {runs !== undefined ? `${runs} a row` : `${test.runs} runs`}
        </Text>
      </chakra.button>
      {open && (
        <Box pb="3">
          {lines.map(([name, value]) => (
            <Flex key={name} gap="4" textStyle="small">
              <Text w="80px" color="quiet" flexShrink="0">
                {name}
              </Text>
              <Text color={value ? "ink" : "doubt"}>{value ?? "not said"}</Text>
            </Flex>
          ))}
          {test.newest && (
            <Button size="2xs" variant="outline" mt="2" onClick={onEdit}>
              Change it: version {test.version + 1}
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}

"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { type ColumnUse, type DetectedShape, judgeUses, SENSOR_UNITS, type SensorUnit, type TimeUnit } from "@/core/intake";
import { SelectField, TextField } from "../forms/fields";

const USE_NAMES = [
  { value: "ignore", label: "left out" },
  { value: "frame-time", label: "frame time" },
  { value: "frame-stamp", label: "time of each frame" },
  { value: "fps", label: "frames per second" },
  { value: "time", label: "time of the row" },
  { value: "channel", label: "sensor" },
] as const;
const TIME_NAMES = ["s", "ms", "us", "ns"].map((value) => ({ value, label: value === "us" ? "µs" : value }));
const SHOWN_ROWS = 6;
const DELIMITERS: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars", " ": "blanks" };

/** The use a person chose, with the unit it may keep. */
function changed(use: ColumnUse, to: string, name: string): ColumnUse {
  const unit = "unit" in use && ["s", "ms", "us", "ns", "clock"].includes(use.unit) ? (use.unit as TimeUnit | "clock") : "ms";
  if (to === "frame-time") return { use: "frame-time", unit: unit === "clock" ? "ms" : unit };
  if (to === "frame-stamp" || to === "time") return { use: to, unit };
  if (to === "fps" || to === "ignore") return { use: to };
  const channel =
    name
      .toLowerCase()
      .replace(/\W+/g, "_")
      .replace(/^[^a-z]+/, "") || "sensor";
  return { use: "channel", channel, unit: "°C" };
}

/** The first rows of a shape of log with what each column is taken for; changed column by column. */
export function ShapePreview({
  detected,
  uses,
  files,
  onChange,
}: {
  detected: DetectedShape;
  uses: ColumnUse[];
  files: number;
  onChange: (uses: ColumnUse[]) => void;
}) {
  const { shape, rows } = detected;
  const judged = judgeUses(uses);
  const set = (i: number, use: ColumnUse) => onChange(uses.map((one, k) => (k === i ? use : one)));
  return (
    <Box mt="3">
      <Text color="quiet">
        {files} {files === 1 ? "file" : "files"}, parted by {DELIMITERS[shape.delimiter]}, decimal {shape.decimal === "." ? "point" : "comma"}, {shape.encoding}
        , {shape.headerLine > 0 ? `header in line ${shape.headerLine}` : "no header"}, numbers from line {shape.firstDataLine}.
      </Text>
      {!judged.ok && (
        <Text role="alert" color="doubt">
          {judged.problem.reason}.
        </Text>
      )}
      <Box overflowX="auto" tabIndex={0} role="region" aria-label="First rows of the log" mt="2">
        <chakra.table
          css={{ borderCollapse: "collapse", "& th, & td": { padding: "3px 10px 3px 0", textAlign: "left", verticalAlign: "top", whiteSpace: "nowrap" } }}
        >
          <thead>
            <tr>
              {shape.columns.map((column, i) => {
                const use = uses[i] ?? { use: "ignore" };
                return (
                  <chakra.th key={`${column.name}-${i}`} minW="120px" fontWeight="500" opacity={use.use === "ignore" ? 0.85 : 1}>
                    <Text truncate maxW="180px" title={column.name}>
                      {column.name}
                    </Text>
                    <SelectField
                      label={`${column.name} is`}
                      hidden
                      value={use.use}
                      options={[...USE_NAMES]}
                      onChange={(to) => set(i, changed(use, to, column.name))}
                    />
                    {(use.use === "frame-time" || use.use === "frame-stamp" || use.use === "time") && (
                      <SelectField
                        label={`unit of ${column.name}`}
                        hidden
                        value={use.unit}
                        options={use.use === "frame-time" ? TIME_NAMES : [...TIME_NAMES, { value: "clock", label: "time of day" }]}
                        onChange={(unit) => set(i, { ...use, unit } as ColumnUse)}
                      />
                    )}
                    {use.use === "channel" && (
                      <Flex gap="2">
                        <TextField label="channel" value={use.channel} onChange={(channel) => set(i, { ...use, channel })} width="90px" />
                        <SelectField
                          label="unit"
                          value={use.unit}
                          options={Object.keys(SENSOR_UNITS).map((unit) => ({ value: unit, label: unit }))}
                          onChange={(unit) => set(i, { ...use, unit: unit as SensorUnit })}
                          width="56px"
                        />
                      </Flex>
                    )}
                  </chakra.th>
                );
              })}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, SHOWN_ROWS).map((row, r) => (
              <tr key={`${r}-${row.join()}`}>
                {row.map((cell, i) => (
                  <chakra.td key={`${shape.columns[i]?.name}-${i}`} textStyle="figure" color={uses[i]?.use === "ignore" ? "quiet" : "ink"}>
                    {cell}
                  </chakra.td>
                ))}
              </tr>
            ))}
          </tbody>
        </chakra.table>
      </Box>
    </Box>
  );
}

import { Box } from "@chakra-ui/react";
import type { LinearScale } from "./scale";

/** The ticked head of a row chart. `marks` are values drawn as a dotted line through all rows below (the baseline). */
export function ScaleHead({ scale, label = String }: { scale: LinearScale; label?: (value: number) => string }) {
  return (
    <Box position="relative" h="26px" aria-hidden color="quiet" textStyle="figure" fontSize="12.5px">
      <svg width="100%" height="26" style={{ display: "block", overflow: "visible" }}>
        <title>scale</title>
        {scale.minor.map((value) => (
          <line key={value} x1={`${scale.at(value)}%`} x2={`${scale.at(value)}%`} y1="21" y2="26" stroke="var(--chakra-colors-tick)" strokeWidth="1" />
        ))}
        {scale.major.map((value) => (
          <g key={value}>
            <line x1={`${scale.at(value)}%`} x2={`${scale.at(value)}%`} y1="17" y2="26" stroke="var(--chakra-colors-tick)" strokeWidth="1" />
            <text x={`${scale.at(value)}%`} y="12" textAnchor="middle" fill="currentColor">
              {label(value)}
            </text>
          </g>
        ))}
      </svg>
    </Box>
  );
}

/** What is drawn in one row. All positions are values on the scale. */
export interface RowMarks {
  value: number;
  low?: number | undefined;
  high?: number | undefined;
  /** The interval for the choice of workloads, drawn dotted below the whisker. */
  choiceLow?: number | undefined;
  choiceHigh?: number | undefined;
  /** Hollow ring: the 1 % low. */
  ring?: number | undefined;
  /** Fine ticks: single workloads. */
  ticks?: number[] | undefined;
  hollow?: boolean | undefined;
  selected?: boolean | undefined;
  doubtful?: boolean | undefined;
}

/** One row's marks: ticks for single workloads, a point with its whisker, a ring for the low; dotted line at the baseline. */
export function RowMark({
  scale,
  marks,
  base,
  margin,
  height = 44,
}: {
  scale: LinearScale;
  marks: RowMarks | undefined;
  base?: number;
  margin?: number;
  height?: number;
}) {
  const middle = height / 2 + 2;
  const x = (value: number) => `${scale.at(value)}%`;
  const ink = marks?.selected ? "var(--chakra-colors-accent-solid)" : marks?.doubtful ? "var(--chakra-colors-doubt)" : "var(--chakra-colors-ink)";
  return (
    <svg width="100%" height={height} style={{ display: "block", overflow: "visible" }} aria-hidden>
      {base !== undefined && margin !== undefined && (
        <rect
          x={x(base / (1 + margin))}
          width={`${scale.at(base * (1 + margin)) - scale.at(base / (1 + margin))}%`}
          y="0"
          height={height}
          fill="var(--chakra-colors-wash)"
        />
      )}
      {base !== undefined && <line x1={x(base)} x2={x(base)} y1="0" y2={height} stroke="var(--chakra-colors-tick)" strokeDasharray="1 3" />}
      {marks && (
        <>
          {(marks.ticks ?? []).map((tick, i) => (
            <line
              key={`${tick}-${i}`}
              x1={x(tick)}
              x2={x(tick)}
              y1={middle - 6}
              y2={middle + 6}
              stroke={ink}
              strokeWidth="1"
              opacity={marks.selected ? 0.5 : 0.4}
            />
          ))}
          {marks.choiceLow !== undefined && marks.choiceHigh !== undefined && !marks.hollow && (
            <line
              x1={x(marks.choiceLow)}
              x2={x(marks.choiceHigh)}
              y1={middle + 13}
              y2={middle + 13}
              stroke={ink}
              strokeWidth="1.75"
              strokeDasharray="1.75 3.5"
              data-choice
            />
          )}
          {marks.low !== undefined && marks.high !== undefined && !marks.hollow && (
            <g stroke={ink} strokeWidth="1.5">
              <line x1={x(marks.low)} x2={x(marks.high)} y1={middle} y2={middle} />
              <line x1={x(marks.low)} x2={x(marks.low)} y1={middle - 8} y2={middle + 8} />
              <line x1={x(marks.high)} x2={x(marks.high)} y1={middle - 8} y2={middle + 8} />
            </g>
          )}
          <circle
            cx={x(marks.value)}
            cy={middle}
            r={marks.hollow ? 5 : 4.2}
            fill={marks.hollow ? "var(--chakra-colors-paper)" : ink}
            stroke={ink}
            strokeWidth="1.5"
          />
          {marks.ring !== undefined && <circle cx={x(marks.ring)} cy={middle - 16} r="3" fill="none" stroke={ink} strokeWidth="1.5" />}
        </>
      )}
    </svg>
  );
}

"use client";

import { pixelsOf } from "@/core/bench";
import { cellKey, metricValue } from "@/core/cell";
import { figure, type ReviewFinding, resolutionsOf } from "@/core/report";
import { linearScale } from "../charts/scale";
import { cachedMatrix, useReview, useReviewState } from "../review/ReviewContext";

const ROW = 24;

/** The evidence of a doubt as a picture: this setup's runs of the workload, a line a resolution, the doubted ones marked. */
export function RunsPicture({ finding }: { finding: ReviewFinding }) {
  const { model } = useReview();
  const { school } = useReviewState();
  const test = model.tests.find(({ key }) => key === finding.testKey);
  if (!test) return null;
  const matrix = cachedMatrix(model, "result", school);
  const doubted = new Set(finding.runId ? [finding.runId] : finding.runIds);
  const order = resolutionsOf(model);
  const family = model.tests
    .filter((one) => one.workloadId === test.workloadId && one.settings === test.settings)
    .sort((a, b) => pixelsOf(a.resolution) - pixelsOf(b.resolution));
  const lines = family.map((one) => ({
    test: one,
    spread: matrix.repeatability.get(one.key)?.sLog,
    runs: (matrix.cells.get(cellKey(finding.setupId, one.key))?.runs ?? []).map((run) => ({
      run,
      value: metricValue(run, { metric: "result", school, powerAt: "device" }),
    })),
  }));
  const values = lines.flatMap(({ runs }) => runs.flatMap(({ value }) => (value === undefined ? [] : [value])));
  if (values.length === 0 || order.length === 0) return null;
  const scale = linearScale(Math.min(...values) * 0.96, Math.max(...values) * 1.04, 6);
  const height = lines.length * ROW + 22;
  return (
    <svg
      width="100%"
      height={height}
      role="img"
      aria-label={`Runs of ${test.workloadName} by resolution; the doubted ones are marked`}
      style={{ display: "block", overflow: "visible" }}
    >
      {lines.map(({ test: one, runs, spread }, i) => {
        const y = i * ROW + ROW / 2;
        const valid = runs.flatMap(({ run, value }) => (run.status === "valid" && value !== undefined ? [value] : []));
        const centre = valid.length > 0 ? [...valid].sort((a, b) => a - b)[Math.floor(valid.length / 2)] : undefined;
        return (
          <g key={one.key}>
            <text x="0" y={y + 4} fontSize="12" fill="var(--chakra-colors-quiet)" style={{ fontStretch: "80%" }}>
              {one.resolution?.replace("x", " × ") ?? one.name}
            </text>
            <svg x="84" width="calc(100% - 100px)" height={height} style={{ overflow: "visible" }}>
              <title>{one.name}</title>
              <line x1="0" x2="100%" y1={y} y2={y} stroke="var(--chakra-colors-hairline)" />
              {centre !== undefined && spread !== undefined && (
                <rect
                  x={`${scale.at(centre * (1 - 2 * spread))}%`}
                  width={`${Math.max(0.4, scale.at(centre * (1 + 2 * spread)) - scale.at(centre * (1 - 2 * spread)))}%`}
                  y={y - 8}
                  height="16"
                  fill="var(--chakra-colors-wash)"
                  stroke="var(--chakra-colors-hairline)"
                />
              )}
              {runs.map(({ run, value }) =>
                value === undefined ? null : (
                  <g
                    key={run.id}
                    stroke={doubted.has(run.id) ? "var(--chakra-colors-doubt)" : "var(--chakra-colors-ink)"}
                    opacity={run.status === "valid" ? 1 : 0.5}
                  >
                    <line
                      x1={`${scale.at(value)}%`}
                      x2={`${scale.at(value)}%`}
                      y1={y - (doubted.has(run.id) ? 9 : 6)}
                      y2={y + (doubted.has(run.id) ? 9 : 6)}
                      strokeWidth={doubted.has(run.id) ? 3 : 1.5}
                      strokeDasharray={run.status === "valid" ? undefined : "2 2"}
                    />
                  </g>
                ),
              )}
              {i === lines.length - 1 &&
                scale.major.map((tick) => (
                  <g key={tick}>
                    <line x1={`${scale.at(tick)}%`} x2={`${scale.at(tick)}%`} y1={height - 20} y2={height - 14} stroke="var(--chakra-colors-tick)" />
                    <text
                      x={`${scale.at(tick)}%`}
                      y={height - 2}
                      textAnchor="middle"
                      fontSize="12"
                      fill="var(--chakra-colors-quiet)"
                      style={{ fontStretch: "80%" }}
                    >
                      {figure(tick, 0)}
                    </text>
                  </g>
                ))}
            </svg>
          </g>
        );
      })}
    </svg>
  );
}

import { writeFile } from "node:fs/promises";
import { alarmsPerThousand, measureFalseAlarms, measureRecall } from "./measureChecks";

/** `npm run checks`: plants every fault in seeded labs, prints recall and false alarms as a table, and writes docs/checks.md. */
const LABS = 100;
const CLEAN_LABS = 100;

// It takes some minutes: each fault is told as soon as it is measured.
const recall = measureRecall(LABS, 1, ({ fault, labs, found }) => console.log(`  ${fault}: ${found} of ${labs}`));
const alarms = measureFalseAlarms(CLEAN_LABS);
/** A table as the project's formatter writes it. */
function table(head: string[], rows: string[][]): string {
  const widths = head.map((name, i) => Math.max(3, name.length, ...rows.map((row) => (row[i] as string).length)));
  const line = (cells: string[]) => `| ${cells.map((cell, i) => cell.padEnd(widths[i] as number)).join(" | ")} |`;
  return [line(head), line(widths.map((width) => "-".repeat(width))), ...rows.map(line)].join("\n");
}

const share = (found: number, labs: number) => `${((100 * found) / labs).toFixed(1)} %`;
const rows = recall.map(({ fault, check, labs, found }) => [fault, check, String(labs), share(found, labs)]);
const alarmRows = [...alarms.byCheck].sort((a, b) => b[1] - a[1]).map(([check, count]) => [check, String(count), ((1000 * count) / alarms.cells).toFixed(2)]);
const text = `# How good the checks are

Written by \`npm run checks\`; the same seeds give the same table. Each fault is planted in ${LABS} simulated labs: six cards,
fourteen games, three resolutions, three runs a cell, a run-to-run spread of 1.2 % that differs by a quarter between tests, and
lows that spread by 2.2 %. Found means: a check named in the second column doubts the very cell, run or row.

${table(["fault planted", "found by", "labs", "recall"], rows)}

## False alarms

${alarms.labs} clean labs, ${alarms.cells.toLocaleString("en")} clean cells, all checks together: **${alarmsPerThousand(alarms).toFixed(2)} per 1,000 clean cells** (the budget is 5).

${table(["check", "alarms", "per 1,000 cells"], alarmRows)}
`;
await writeFile("docs/checks.md", text);
console.log(text);

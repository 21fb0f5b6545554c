/** One row of an exported chart; values lie on the chart's scale. */
export interface ChartRow {
  label: string;
  value: number;
  low?: number | undefined;
  high?: number | undefined;
  /** The interval for the choice of workloads, drawn dotted. */
  choiceLow?: number | undefined;
  choiceHigh?: number | undefined;
  /** Hollow ring: the low. */
  ring?: number | undefined;
  ticks?: readonly number[] | undefined;
  hollow?: boolean | undefined;
  /** Figures at the right. */
  text: string;
}

/** A row chart as plain data, ready to be drawn anywhere. */
export interface RowChart {
  title: string;
  subtitle: string;
  unit: string;
  min: number;
  max: number;
  major: readonly number[];
  minor: readonly number[];
  /** Where the baseline stands, and the band in which rows are level. */
  base: number;
  band: readonly [number, number];
  rows: readonly ChartRow[];
  /** Printed small underneath: resolution, school, margin, bench, date. */
  conditions: readonly string[];
}

const escape = (text: string) => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll('"', "&quot;");
const INK = "#191815";
const QUIET = "#65625a";
const TICK = "#8f8b80";
const PAPER = "#faf8f2";
const WASH = "#f1eee5";
const ROW = 34;
const [LEFT, RIGHT, TOP] = [230, 190, 92];
const WIDTH = 1120;
const PER_LINE = 150;

/** Cuts a text into lines of at most so many letters, at its blanks. */
function wrap(text: string, most: number): string[] {
  const lines: string[] = [];
  for (const word of text.split(" ")) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length + 1 <= most) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines;
}

/**
 * Draws a row chart as SVG with its text as text: points, whiskers, dotted lines for the choice of workloads, rings for lows,
 * fine ticks for single tests, conditions printed small underneath. Zero is stated where the scale is cut.
 */
export function rowChartSvg(chart: RowChart): string {
  const plot = WIDTH - LEFT - RIGHT;
  const x = (value: number) => (LEFT + ((value - chart.min) / (chart.max - chart.min)) * plot).toFixed(1);
  const foot = [...(chart.min > 0 ? ["The scale is cut; it does not begin at zero."] : []), ...chart.conditions].flatMap((line) => wrap(line, PER_LINE));
  const bottom = TOP + chart.rows.length * ROW;
  const height = bottom + 26 + foot.length * 16;
  const parts: string[] = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${height}" viewBox="0 0 ${WIDTH} ${height}" font-family="'Archivo Variable', Archivo, sans-serif">`,
    `<title>${escape(chart.title)}</title>`,
    `<desc>${escape(chart.rows.map(({ label, text }) => `${label}: ${text}`).join("; "))}</desc>`,
    `<rect width="${WIDTH}" height="${height}" fill="${PAPER}"/>`,
    `<text x="24" y="34" font-size="20" font-weight="600" fill="${INK}">${escape(chart.title)}</text>`,
    `<text x="24" y="54" font-size="13" fill="${QUIET}">${escape(chart.subtitle)}</text>`,
    `<rect x="${x(Math.max(chart.min, chart.band[0]))}" y="${TOP}" width="${(Number(x(Math.min(chart.max, chart.band[1]))) - Number(x(Math.max(chart.min, chart.band[0])))).toFixed(1)}" height="${bottom - TOP}" fill="${WASH}"/>`,
  ];
  for (const value of chart.minor) parts.push(`<line x1="${x(value)}" x2="${x(value)}" y1="${TOP - 5}" y2="${TOP}" stroke="${TICK}"/>`);
  for (const value of chart.major)
    parts.push(
      `<line x1="${x(value)}" x2="${x(value)}" y1="${TOP - 9}" y2="${TOP}" stroke="${TICK}"/>`,
      `<text x="${x(value)}" y="${TOP - 13}" font-size="12" fill="${QUIET}" text-anchor="middle">${value}</text>`,
    );
  parts.push(`<text x="${WIDTH - RIGHT + 12}" y="${TOP - 13}" font-size="12" fill="${QUIET}">${escape(chart.unit)}</text>`);
  parts.push(`<line x1="${x(chart.base)}" x2="${x(chart.base)}" y1="${TOP}" y2="${bottom}" stroke="${TICK}" stroke-dasharray="1 3"/>`);
  chart.rows.forEach((row, i) => {
    const top = TOP + i * ROW;
    const middle = top + ROW / 2 + 2;
    parts.push(
      `<line x1="24" x2="${WIDTH - 24}" y1="${top}" y2="${top}" stroke="#dcd8cc"/>`,
      `<text x="24" y="${middle + 4}" font-size="14" font-weight="600" fill="${INK}">${escape(row.label)}</text>`,
    );
    for (const tick of row.ticks ?? [])
      parts.push(`<line x1="${x(tick)}" x2="${x(tick)}" y1="${middle - 6}" y2="${middle + 6}" stroke="${INK}" opacity="0.4"/>`);
    if (row.choiceLow !== undefined && row.choiceHigh !== undefined)
      parts.push(
        `<line x1="${x(row.choiceLow)}" x2="${x(row.choiceHigh)}" y1="${middle + 9}" y2="${middle + 9}" stroke="${INK}" stroke-width="1.5" stroke-dasharray="1.5 3"/>`,
      );
    if (row.low !== undefined && row.high !== undefined)
      parts.push(
        `<path d="M${x(row.low)} ${middle}H${x(row.high)}M${x(row.low)} ${middle - 6}V${middle + 6}M${x(row.high)} ${middle - 6}V${middle + 6}" stroke="${INK}" stroke-width="1.5" fill="none"/>`,
      );
    parts.push(
      `<circle cx="${x(row.value)}" cy="${middle}" r="4.2" fill="${row.hollow ? PAPER : INK}" stroke="${INK}" stroke-width="1.5"/>`,
      ...(row.ring === undefined ? [] : [`<circle cx="${x(row.ring)}" cy="${middle - 11}" r="3" fill="none" stroke="${INK}" stroke-width="1.5"/>`]),
      `<text x="${WIDTH - 24}" y="${middle + 4}" font-size="14" fill="${INK}" text-anchor="end" style="font-variant-numeric:tabular-nums">${escape(row.text)}</text>`,
    );
  });
  foot.forEach((line, i) => {
    parts.push(`<text x="24" y="${bottom + 24 + i * 16}" font-size="11.5" fill="${QUIET}">${escape(line)}</text>`);
  });
  parts.push("</svg>");
  return parts.join("\n");
}

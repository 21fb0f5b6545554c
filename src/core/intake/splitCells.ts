import type { LogShape } from "./logShape";

/** The cells of one line, trimmed; a cell in double quotes may hold the delimiter, and "" for a quote. Blanks in a row part once. */
export function splitCells(line: string, delimiter: LogShape["delimiter"]): string[] {
  if (delimiter === " ") return line.trim().split(/ +/);
  if (!line.includes('"')) return line.split(delimiter).map((cell) => cell.trim());
  const cells: string[] = [];
  let at = 0;
  for (;;) {
    while (line[at] === " ") at += 1;
    let cell = "";
    if (line[at] === '"') {
      at += 1;
      for (; at < line.length; at += 1) {
        if (line[at] !== '"') cell += line[at];
        else if (line[at + 1] === '"') {
          cell += '"';
          at += 1;
        } else break;
      }
      at += 1;
    }
    const end = line.indexOf(delimiter, at);
    cells.push((cell + line.slice(at, end < 0 ? line.length : end)).trim());
    if (end < 0) return cells;
    at = end + 1;
  }
}

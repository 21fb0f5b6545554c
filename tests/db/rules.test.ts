import { sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { readTraces } from "@/db/traces";
import type { Deps } from "@/server/useCase";
import { changed, emptyLab, importFiles, smallPackage } from "../helpers/testLab";

let deps: Deps;
let drop: () => Promise<void>;
beforeAll(async () => {
  ({ deps, drop } = await emptyLab());
  const result = await importFiles(deps, smallPackage());
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
});
afterAll(() => drop());

/** The name of the constraint or the message with which the database refuses a statement. */
async function refusal(statement: string): Promise<string> {
  try {
    await deps.database.execute(sql.raw(statement));
  } catch (error) {
    const cause = (error as { cause?: { constraint?: string; message?: string } }).cause;
    return cause?.constraint ?? cause?.message ?? String(error);
  }
  throw new Error("the database allowed it");
}

describe("the rules that the database itself keeps", () => {
  const FORBIDDEN: [string, string, RegExp][] = [
    ["a baseline that is none of the review's setups", "update reviews set baseline_setup_id = 'nobody'", /reviews_baseline_is_a_row/],
    ["a price of 0", "update offers set price_minor = 0", /offers_price/],
    ["an unknown part kind", "update parts set kind = 'toaster'", /parts_kind/],
    ["a discarded run without reason", "update runs set status = 'discarded', reason = null", /runs_reason/],
    ["two runs of one number in a cell", "update runs set number = 1", /runs_setupId_testId_testVersion_number/],
    ["an offer of a part that is not there", "update offers set part_id = 'ghost'", /offers_part_id/],
    ["a changed bench revision", "update benches set name = 'other'", /records/],
    ["a changed test version", "update tests set name = 'other'", /records/],
    ["a changed trace", "update traces set count = 1", /records/],
    ["a trace taken away", "delete from traces", /records/],
    ["a rebate without its kind", "update offers set rebate_minor = 5", /offers_rebate/],
  ];
  for (const [name, statement, wanted] of FORBIDDEN) {
    it(`refuse ${name}`, async () => expect(await refusal(statement)).toMatch(wanted));
  }

  it("hold frame times bit for bit, also with many decimals", async () => {
    const awkward = ["0.1", "16.666666666666668", "33.333333333333336", "7.000000001", "12.3456789012345"];
    const files = changed("runs.csv", (text) => text.replace(/\n[\s\S]*/, "\nlong,card-b,quay,1,9,valid,,frames/long.csv,,\n"));
    const names = Object.keys(files).filter((name) => /^(frames|sensors)\//.test(name));
    for (const name of names) delete files[name];
    for (const name of ["run_values.csv", "opinions.csv", "trace_edits.csv"]) delete files[name];
    files["datapackage.json"] = (files["datapackage.json"] as string).replaceAll(/,\{"name":"(run_values|opinions|trace_edits)","path":"[^"]+"\}/g, "");
    const result = await importFiles(deps, { ...files, "frames/long.csv": `frame_time_ms\n${awkward.join("\n")}\n` });
    expect(result).toMatchObject({ ok: true });
    const [series] = await readTraces(deps.database, ["long"], "frames");
    expect([...(series?.values ?? [])].map(String)).toEqual(awkward);
  });
});

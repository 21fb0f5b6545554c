import type { Metadata } from "next";
import { practiseAction, registerHostAction, removeHostAction, switchFaultsAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { listInstruments } from "@/server/recordRun";
import { InstrumentsPage } from "@/ui/instruments/InstrumentsPage";

export const metadata: Metadata = { title: "Instruments" };

export default async function Page() {
  const actions = { registerHost: registerHostAction, removeHost: removeHostAction, switchFaults: switchFaultsAction, practise: practiseAction };
  return <InstrumentsPage hosts={await listInstruments(realDeps())} actions={actions} />;
}

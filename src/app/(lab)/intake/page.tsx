import type { Metadata } from "next";
import { endIntakeAction, savePatternAction, saveProfileAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadIntake } from "@/server/intakes";
import { IntakePage } from "@/ui/intake/IntakePage";

export const metadata: Metadata = { title: "Take in logs" };

export default async function Page() {
  return (
    <IntakePage model={await loadIntake(realDeps())} actions={{ endIntake: endIntakeAction, savePattern: savePatternAction, saveProfile: saveProfileAction }} />
  );
}

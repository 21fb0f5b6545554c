import type { Metadata } from "next";
import { addSetupAction, startReviewAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadAsk } from "@/server/loadAsk";
import { NewReview } from "@/ui/ask/NewReview";

export const metadata: Metadata = { title: "New review" };

export default async function Page() {
  return <NewReview model={await loadAsk(realDeps())} startReview={startReviewAction} addSetup={addSetupAction} />;
}

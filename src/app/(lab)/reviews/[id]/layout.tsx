import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { cache, type ReactNode } from "react";
import {
  addClaimAction,
  changeReviewAction,
  changeRunAction,
  decideFindingAction,
  declareDifferenceAction,
  endIntakeAction,
  enterValuesAction,
  planOpenRunsAction,
  publishAction,
  relabelRunAction,
  removeClaimAction,
  saveProfileAction,
  setThresholdAction,
  trimRunAction,
  undoTrimAction,
  updateOfferAction,
} from "@/app/(lab)/actions";
import { packRuns } from "@/core/report";
import { realDeps } from "@/server/deps";
import { loadReview } from "@/server/loadReview";
import { ReviewProvider } from "@/ui/review/ReviewContext";
import { ReviewShell } from "@/ui/review/ReviewShell";

/** Loaded once a request, for the title and the screens alike. */
const load = cache((id: string) => loadReview(realDeps(), id));

interface Props {
  params: Promise<{ id: string }>;
  children: ReactNode;
}

const ACTIONS = {
  decideFinding: decideFindingAction,
  changeRun: changeRunAction,
  trimRun: trimRunAction,
  undoTrim: undoTrimAction,
  relabelRun: relabelRunAction,
  enterValues: enterValuesAction,
  planOpenRuns: planOpenRunsAction,
  endIntake: endIntakeAction,
  saveProfile: saveProfileAction,
  setThreshold: setThresholdAction,
  updateOffer: updateOfferAction,
  addClaim: addClaimAction,
  removeClaim: removeClaimAction,
  declareDifference: declareDifferenceAction,
  changeReview: changeReviewAction,
  publish: publishAction,
};

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  const model = await load((await params).id);
  return { title: model?.title ?? "No such review" };
}

/** The review is loaded once for all its steps: moving along the ruler reads nothing again. */
export default async function ReviewLayout({ params, children }: Props) {
  const model = await load((await params).id);
  if (!model) notFound();
  const { runs, ...rest } = model;
  return (
    <ReviewProvider model={rest} packedRuns={packRuns(runs)} actions={ACTIONS}>
      <ReviewShell nowMs={Date.now()}>{children}</ReviewShell>
    </ReviewProvider>
  );
}

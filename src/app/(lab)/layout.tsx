import type { ReactNode } from "react";
import { currentActor } from "@/app/actor";
import { realDeps } from "@/server/deps";
import { listReviewTitles } from "@/server/listReviews";
import { listPeople } from "@/server/useCase";
import { LabHeader } from "@/ui/lab/LabHeader";
import { choosePersonAction } from "./actions";

export const dynamic = "force-dynamic";

export default async function LabLayout({ children }: { children: ReactNode }) {
  const deps = realDeps();
  const [people, actor, reviews] = await Promise.all([listPeople(deps), currentActor(), listReviewTitles(deps)]);
  return (
    <>
      <LabHeader people={people} personId={actor?.personId ?? null} reviews={reviews} choosePerson={choosePersonAction} />
      {children}
    </>
  );
}

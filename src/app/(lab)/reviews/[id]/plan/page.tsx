import { notFound } from "next/navigation";
import { savePlanAction, setLabHoursAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadPlan } from "@/server/loadPlan";
import { PlanStep } from "@/ui/plan/PlanStep";

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const model = await loadPlan(realDeps(), (await params).id);
  if (!model) notFound();
  return <PlanStep key={model.saved?.number ?? 0} model={model} nowMs={Date.now()} savePlan={savePlanAction} setLabHours={setLabHoursAction} />;
}

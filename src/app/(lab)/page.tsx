import { realDeps } from "@/server/deps";
import { listReviews } from "@/server/listReviews";
import { LabHome } from "@/ui/lab/LabHome";

export default async function HomePage() {
  return <LabHome reviews={await listReviews(realDeps())} nowMs={Date.now()} />;
}

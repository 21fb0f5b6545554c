import { RunGrid } from "@/ui/grid/RunGrid";

export default function Page() {
  return <RunGrid />;
}

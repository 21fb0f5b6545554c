import { BenchStep } from "@/ui/bench/BenchStep";

export default function Page() {
  return <BenchStep />;
}

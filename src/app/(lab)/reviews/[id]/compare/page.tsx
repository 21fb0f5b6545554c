import { CompareStep } from "@/ui/compare/CompareStep";

export default function Page() {
  return <CompareStep />;
}

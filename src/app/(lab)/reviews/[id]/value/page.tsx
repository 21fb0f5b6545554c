import { ValueStep } from "@/ui/value/ValueStep";

export default function Page() {
  return <ValueStep />;
}

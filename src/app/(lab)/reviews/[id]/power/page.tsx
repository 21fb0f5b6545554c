import { PowerStep } from "@/ui/power/PowerStep";

export default function Page() {
  return <PowerStep />;
}

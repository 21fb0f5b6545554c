import { CheckStep } from "@/ui/check/CheckStep";

export default function Page() {
  return <CheckStep />;
}

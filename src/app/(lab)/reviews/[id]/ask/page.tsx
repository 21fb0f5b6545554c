import { AskStep } from "@/ui/ask/AskStep";

export default function Page() {
  return <AskStep />;
}

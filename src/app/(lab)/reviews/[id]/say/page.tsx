import { SayStep } from "@/ui/say/SayStep";

export default function Page() {
  return <SayStep />;
}

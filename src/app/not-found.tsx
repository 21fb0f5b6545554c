import { Notice } from "@/ui/lab/Notice";

export default function NotFound() {
  return <Notice title="There is nothing at this address" text="The review, run or report does not exist, or is under embargo." />;
}

"use client";

import { Notice } from "@/ui/lab/Notice";

export default function LabError({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <Notice
      title="This page could not be made"
      text={`What was confirmed is kept. If the database is down, start Parvex again. Error ${error.digest ?? "without a number"}.`}
      onRetry={reset}
    />
  );
}

"use client";

import { Box, VisuallyHidden } from "@chakra-ui/react";
import { usePathname, useSearchParams } from "next/navigation";
import { useEffect, useState } from "react";

const LONGEST_MS = 20_000;

/** Whether a click on a link leaves for another page of this application; one that opens elsewhere or stays here does not. */
export function leavesFor(href: string, here: string, event: Pick<MouseEvent, "button" | "ctrlKey" | "metaKey" | "shiftKey" | "altKey">): boolean {
  if (event.button !== 0 || event.ctrlKey || event.metaKey || event.shiftKey || event.altKey) return false;
  const [to, from] = [new URL(href, here), new URL(here)];
  return to.origin === from.origin && !to.pathname.startsWith("/api/") && (to.pathname !== from.pathname || to.search !== from.search);
}

/** A thin line at the top of the window while another page is being read; a page that comes at once never shows it. */
export function Underway() {
  const pathname = usePathname();
  const search = useSearchParams();
  const [going, setGoing] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the address has changed, so the page is there
  useEffect(() => setGoing(false), [pathname, search]);
  useEffect(() => {
    const onClick = (event: MouseEvent) => {
      const link = event.target instanceof Element ? event.target.closest("a[href]") : null;
      if (link instanceof HTMLAnchorElement && !link.target && !link.download && leavesFor(link.href, window.location.href, event)) setGoing(true);
    };
    document.addEventListener("click", onClick);
    return () => document.removeEventListener("click", onClick);
  }, []);
  // A click that came to nothing must not leave a line that never ends.
  useEffect(() => {
    if (!going) return;
    const timer = setTimeout(() => setGoing(false), LONGEST_MS);
    return () => clearTimeout(timer);
  }, [going]);
  if (!going) return null;
  return (
    <>
      <VisuallyHidden role="status">The page is being read.</VisuallyHidden>
      <Box
        aria-hidden
        data-underway
        position="fixed"
        top="0"
        left="0"
        h="3px"
        w="full"
        bg="accent.solid"
        zIndex="50"
        transformOrigin="left"
        css={{
          transform: "scaleX(0)",
          animation: "underway 6s cubic-bezier(0.1, 0.7, 0.2, 1) 0.15s forwards",
          "@media (prefers-reduced-motion: reduce)": { transform: "scaleX(0.6)" },
        }}
      />
    </>
  );
}

"use client";

import { useEffect, useRef } from "react";

/** Runs a handler for a key pressed anywhere but in a field. Handlers may change between renders. */
export function useKeys(handlers: Record<string, (event: KeyboardEvent) => void>): void {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable) return;
      if (document.querySelector('[role="dialog"][data-state="open"]') && event.key !== "Escape") return;
      const handler = latest.current[event.key];
      if (!handler) return;
      event.preventDefault();
      handler(event);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

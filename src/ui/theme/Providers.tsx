"use client";

import { ChakraProvider } from "@chakra-ui/react";
import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { useServerInsertedHTML } from "next/navigation";
import { ThemeProvider } from "next-themes";
import { type ReactNode, useState } from "react";
import { system } from "./system";

/** Collects the styles that a server render made and sends them with the page; without it hydration fails. */
function useEmotionRegistry() {
  const [registry] = useState(() => {
    const cache = createCache({ key: "css" });
    cache.compat = true;
    const insert = cache.insert;
    let fresh: string[] = [];
    cache.insert = (...args) => {
      const [, serialized] = args;
      if (cache.inserted[serialized.name] === undefined) fresh.push(serialized.name);
      return insert(...args);
    };
    const flush = () => {
      const names = fresh;
      fresh = [];
      return names;
    };
    return { cache, flush };
  });
  useServerInsertedHTML(() => {
    const names = registry.flush();
    if (names.length === 0) return null;
    const styles = names.map((name) => registry.cache.inserted[name]).filter((style) => typeof style === "string");
    return <style data-emotion={`css ${names.join(" ")}`} dangerouslySetInnerHTML={{ __html: styles.join("") }} />;
  });
  return registry.cache;
}

export function Providers({ children }: { children: ReactNode }) {
  const cache = useEmotionRegistry();
  return (
    <CacheProvider value={cache}>
      <ChakraProvider value={system}>
        <ThemeProvider attribute="class" disableTransitionOnChange defaultTheme="system">
          {children}
        </ThemeProvider>
      </ChakraProvider>
    </CacheProvider>
  );
}

import type { NextConfig } from "next";

const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  agentRules: false,
  // `npm test` runs the compiler over the whole project; checking again here would double the first start of the demo.
  typescript: { ignoreBuildErrors: true },
  // Fine timers need a page that shares its process with no other site.
  headers: async () => [
    {
      source: "/instruments/browser",
      headers: [
        { key: "Cross-Origin-Opener-Policy", value: "same-origin" },
        { key: "Cross-Origin-Embedder-Policy", value: "require-corp" },
      ],
    },
  ],
  experimental: { optimizePackageImports: ["@chakra-ui/react", "lucide-react"] },
};

export default config;

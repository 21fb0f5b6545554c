import type { NextConfig } from "next";

const config: NextConfig = {
  reactStrictMode: true,
  poweredByHeader: false,
  agentRules: false,
  // `npm test` runs the compiler over the whole project; checking again here would double the first start of the demo.
  typescript: { ignoreBuildErrors: true },
  experimental: { optimizePackageImports: ["@chakra-ui/react", "lucide-react"] },
};

export default config;

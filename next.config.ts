import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["sequelize", "sqlite3", "piscina", "pino", "umzug"],
  poweredByHeader: false,
  // The application is built without its tests: their client is made from its own description.
  typescript: { tsconfigPath: "tsconfig.build.json" },
  // Served on this machine to this machine: packing and unpacking would cost more than the way.
  compress: false,
  devIndicators: false,
  // Some browsers ask for an icon before they have read which one the page names.
  rewrites: async () => [{ source: "/favicon.ico", destination: "/icon.svg" }],
  // Title and icon stand in the page's head from the start instead of following it: a browser that finds no icon asks for another.
  htmlLimitedBots: /.*/,
};

export default config;

import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["sequelize", "sqlite3", "piscina", "pino", "umzug"],
  poweredByHeader: false,
  // Served on this machine to this machine: packing and unpacking would cost more than the way.
  compress: false,
  devIndicators: false,
  // Title and icon stand in the page's head from the start instead of following it: a browser that finds no icon asks for another.
  htmlLimitedBots: /.*/,
};

export default config;

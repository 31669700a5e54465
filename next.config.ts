import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["sequelize", "sqlite3", "piscina", "pino", "umzug"],
  poweredByHeader: false,
  // Served on this machine to this machine: packing and unpacking would cost more than the way.
  compress: false,
  devIndicators: false,
};

export default config;

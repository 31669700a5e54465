import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["sequelize", "sqlite3", "piscina", "pino", "umzug"],
  poweredByHeader: false,
  devIndicators: false,
};

export default config;

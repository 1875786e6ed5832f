import type { NextConfig } from 'next';

const config: NextConfig = {
  // A finished build is served from a folder of its own, so that the next build does not pull it away from a running server.
  distDir: process.env.MAVREK_BUILD ?? '.next',
  poweredByHeader: false,
  reactStrictMode: true,
  devIndicators: false,
  // pg and pino resolve files at run time; the bundler must leave them alone.
  serverExternalPackages: ['pg', 'pino'],
};

export default config;

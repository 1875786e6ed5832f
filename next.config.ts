import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  devIndicators: false,
  // pg and pino resolve files at run time; the bundler must leave them alone.
  serverExternalPackages: ['pg', 'pino'],
};

export default config;

import type { NextConfig } from 'next';

const config: NextConfig = {
  // A finished build is served from a folder of its own, so that the next build does not pull it away from a running server.
  distDir: process.env.MAVREK_BUILD ?? '.next',
  poweredByHeader: false,
  reactStrictMode: true,
  // Types are checked by the tests, once; whoever only starts it does not wait for that.
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
  // They resolve files at run time; the bundler must leave them alone.
  serverExternalPackages: ['pg', 'pino', '@node-rs/argon2', 'rate-limiter-flexible'],
  // Between two pages, before the head of the next has come, browsers ask for the icon by its old name.
  rewrites: async () => [{ source: '/favicon.ico', destination: '/icon.svg' }],
};

export default config;

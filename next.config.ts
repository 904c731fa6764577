import type { NextConfig } from 'next';

/** Pages are cross-origin isolated, so that workers may share memory. */
const isolation = [
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
];

const config: NextConfig = {
  reactStrictMode: true,
  devIndicators: false,
  headers: async () => [{ source: '/:path*', headers: isolation }],
};

export default config;

import type { NextConfig } from 'next';

const EVERYWHERE = [
  // Pages are cross-origin isolated, so that workers may share memory.
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  { key: 'X-Content-Type-Options', value: 'nosniff' },
  { key: 'Referrer-Policy', value: 'no-referrer' },
  {
    key: 'Permissions-Policy',
    value: 'camera=(), microphone=(), geolocation=(), payment=(), usb=(), serial=(), bluetooth=(), browsing-topics=()',
  },
];

const config: NextConfig = {
  reactStrictMode: true,
  devIndicators: false,
  poweredByHeader: false,
  // `npm test` checks them, several times as fast.
  typescript: { ignoreBuildErrors: true },
  // Nothing here asks the server to make pictures smaller.
  images: { unoptimized: true },
  headers: async () => [{ source: '/:path*', headers: EVERYWHERE }],
};

export default config;

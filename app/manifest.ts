import type { MetadataRoute } from 'next';
import { tokens } from '@/ui/theme/tokens';

/** Lets a browser install the application as a window of its own. */
export default function manifest(): MetadataRoute.Manifest {
  return {
    name: 'Ostracon',
    short_name: 'Ostracon',
    description: 'A workbench for finishing shots',
    start_url: '/',
    display: 'standalone',
    background_color: tokens.floor,
    theme_color: tokens.floor,
    icons: [{ src: '/icon.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' }],
  };
}

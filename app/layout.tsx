import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import '@fontsource/ibm-plex-sans/400.css';
import '@fontsource/ibm-plex-sans/500.css';
import '@fontsource/ibm-plex-sans/600.css';
import '@fontsource/ibm-plex-mono/400.css';
import '@/ui/theme/global.css';
import { Providers } from '@/ui/theme/Providers';

// Each page carries a number that is used once (see proxy.ts): it is made for whoever asks.
export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Ostracon', description: 'A workbench for finishing shots' };

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en">
      <body>
        <Providers nonce={nonce}>{children}</Providers>
      </body>
    </html>
  );
}

'use client';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import { ThemeProvider } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { KeepOffline } from '../offline/KeepOffline';
import { ToastHost } from './toast';
import { Requirements } from './Requirements';
import { theme } from './theme';

export function Providers({ nonce, children }: { nonce: string | undefined; children: ReactNode }) {
  return (
    <AppRouterCacheProvider {...(nonce !== undefined && { options: { nonce } })}>
      <ThemeProvider theme={theme}>
        <Requirements>{children}</Requirements>
        <ToastHost />
        <KeepOffline />
      </ThemeProvider>
    </AppRouterCacheProvider>
  );
}

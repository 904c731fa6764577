'use client';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import { ThemeProvider } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { KeepOffline } from '../offline/KeepOffline';
import { ToastHost } from './toast';
import { theme } from './theme';

export function Providers({ children }: { children: ReactNode }) {
  return (
    <AppRouterCacheProvider>
      <ThemeProvider theme={theme}>
        {children}
        <ToastHost />
        <KeepOffline />
      </ThemeProvider>
    </AppRouterCacheProvider>
  );
}

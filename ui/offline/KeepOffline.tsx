'use client';
import { useEffect } from 'react';

/** Has the browser keep the application, so that it opens without a network after the first visit. */
export function KeepOffline() {
  useEffect(() => {
    // While it is being developed every file changes under the same name.
    if (process.env.NODE_ENV !== 'production' || !('serviceWorker' in navigator)) return;
    // Without it everything works but the start without a network: nothing to tell.
    navigator.serviceWorker.register('/offline.js').catch(() => undefined);
  }, []);
  return null;
}

'use client';
import type { ReactNode } from 'react';
import { useSyncExternalStore } from 'react';

/** What the browser does not give this page, in words, and what to do. */
export function missingHere(): string[] {
  const missing: string[] = [];
  if (!window.isSecureContext) {
    missing.push(
      `This address (${window.location.host}) is not a secure one, and the browser gives such pages neither shared memory nor hashes nor storage of files. ` +
        'Open it as http://localhost on this computer, or put it behind https.',
    );
  } else if (!window.crossOriginIsolated || typeof SharedArrayBuffer === 'undefined') {
    missing.push(
      'The page is not isolated, so that its workers cannot share memory: something between server and browser takes its headers away.',
    );
  }
  if (typeof WebAssembly === 'undefined') missing.push('WebAssembly, which computes the pictures, is switched off in this browser.');
  if (typeof OffscreenCanvas === 'undefined') missing.push('This browser cannot draw in a worker; a newer one can.');
  if (typeof indexedDB === 'undefined') missing.push('This browser keeps no data for pages: leave its private mode, or allow storage.');
  return missing;
}

const never = (): (() => void) => () => undefined;
let known: string | null = null;
const now = (): string => (known ??= missingHere().join('\n'));

/** The application, where the browser has what it needs; else what is missing. */
export function Requirements({ children }: { children: ReactNode }) {
  const missing = useSyncExternalStore(never, now, () => '');
  if (!missing) return children;
  return (
    <main className="repair">
      <h1>Ostracon cannot work here</h1>
      {missing.split('\n').map((m) => (
        <p key={m} role="alert">
          {m}
        </p>
      ))}
    </main>
  );
}

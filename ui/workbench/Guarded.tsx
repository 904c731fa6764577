'use client';
import Button from '@mui/material/Button';
import type { ReactNode } from 'react';
import { ErrorBoundary } from 'react-error-boundary';
import { messageOf } from '@/core/errors';

/** A part of the page whose failure stays its own: it says what went wrong and can be drawn again; the shot is not touched. */
export function Guarded({ what, children }: { what: string; children: ReactNode }) {
  return (
    <ErrorBoundary
      fallbackRender={({ error, resetErrorBoundary }) => (
        <div className="empty" role="alert" style={{ margin: 12 }}>
          {what} could not be drawn ({messageOf(error)}). The shot is as it was.
          <div>
            <Button variant="outlined" sx={{ mt: 1 }} onClick={resetErrorBoundary}>
              Draw it again
            </Button>
          </div>
        </div>
      )}
    >
      {children}
    </ErrorBoundary>
  );
}

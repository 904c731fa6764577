'use client';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useEffect } from 'react';
import { createPortal } from 'react-dom';
import { create } from 'zustand';
import { messageOf } from '@/core/errors';
import { CloseIcon, ErrorOutlineIcon, InfoOutlinedIcon, WarningAmberIcon } from '@/ui/theme/icons';

interface Toast {
  id: number;
  kind: 'info' | 'warning' | 'error';
  text: string;
  /** The clock at which it was told. */
  at: number;
  action?: { label: string; run(): void };
}

/** What is told now, and what was told, the newest last. */
export const useToasts = create<{ list: Toast[]; said: readonly Toast[]; unread: number }>(() => ({ list: [], said: [], unread: 0 }));
let serial = 0;

/** Messages that are kept to be read later, and that stand at a time. */
const MOST_SAID = 200;
const MOST = 3;
/** Milliseconds for which a message stands: what went wrong is read longer. */
const STANDS = { info: 6_000, warning: 12_000, error: 20_000 } as const;

/** Tells something in a quiet place; it goes by itself, and stays in the list of messages. The same again stands once. */
export function toast(kind: Toast['kind'], text: string, action?: Toast['action']): void {
  const told: Toast = { id: ++serial, kind, text, at: Date.now(), ...(action ? { action } : {}) };
  useToasts.setState(({ list, said, unread }) => ({
    list: [...list.filter((t) => t.text !== text).slice(1 - MOST), told],
    said: [...said, told].slice(-MOST_SAID),
    unread: kind === 'info' ? unread : unread + 1,
  }));
}

export const toastError = (e: unknown): void => toast('error', messageOf(e));

/** What stands belongs to a place that is left: it goes from the screen, not from the list. */
export const clearToasts = (): void => useToasts.setState({ list: [] });

const close = (id: number): void => useToasts.setState(({ list }) => ({ list: list.filter((t) => t.id !== id) }));
const ICONS = { info: InfoOutlinedIcon, warning: WarningAmberIcon, error: ErrorOutlineIcon };

/** A dialog hides all else of the page's body from screen readers while it is open, but not what it has to tell. */
function staysTold(element: HTMLElement | null): (() => void) | undefined {
  if (!element) return undefined;
  const show = (): void => element.removeAttribute('aria-hidden');
  const observer = new MutationObserver(show);
  observer.observe(element, { attributes: true, attributeFilter: ['aria-hidden'] });
  show();
  return () => observer.disconnect();
}

export function ToastHost() {
  const list = useToasts((s) => s.list);
  if (list.length === 0) return null;
  return createPortal(
    <div ref={staysTold} className="toasts" aria-live="polite">
      {list.map((t) => (
        <ToastView key={t.id} toast={t} />
      ))}
    </div>,
    document.body,
  );
}

function ToastView({ toast: t }: { toast: Toast }) {
  useEffect(() => {
    const timer = setTimeout(() => close(t.id), STANDS[t.kind]);
    return () => clearTimeout(timer);
  }, [t]);
  const Icon = ICONS[t.kind];
  return (
    <div className={`toast ${t.kind}`} role={t.kind === 'error' ? 'alert' : 'status'}>
      <Icon fontSize="small" />
      <span>{t.text}</span>
      {t.action && (
        <Button
          onClick={() => {
            t.action!.run();
            close(t.id);
          }}
        >
          {t.action.label}
        </Button>
      )}
      <IconButton aria-label="Close message" onClick={() => close(t.id)}>
        <CloseIcon fontSize="inherit" />
      </IconButton>
    </div>
  );
}

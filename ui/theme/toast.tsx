'use client';
import CloseIcon from '@mui/icons-material/Close';
import ErrorOutlineIcon from '@mui/icons-material/ErrorOutlined';
import InfoOutlinedIcon from '@mui/icons-material/InfoOutlined';
import WarningAmberIcon from '@mui/icons-material/WarningAmber';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useEffect } from 'react';
import { createPortal } from 'react-dom';
import { create } from 'zustand';
import { messageOf } from '@/core/errors';

interface Toast {
  id: number;
  kind: 'info' | 'warning' | 'error';
  text: string;
  action?: { label: string; run(): void };
}

const useToasts = create<{ list: Toast[] }>(() => ({ list: [] }));
let serial = 0;

/** Tells something at the foot of the page. Errors stay until they are closed. */
export function toast(kind: Toast['kind'], text: string, action?: Toast['action']): void {
  useToasts.setState(({ list }) => ({ list: [...list.slice(-3), { id: ++serial, kind, text, ...(action ? { action } : {}) }] }));
}

export const toastError = (e: unknown): void => toast('error', messageOf(e));

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
    if (t.kind === 'error') return undefined;
    const timer = setTimeout(() => close(t.id), 7000);
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

import type { Remote } from 'comlink';
import { useEffect, useState } from 'react';
import { create } from 'zustand';
import type { ScopeWorker } from '@/engine/browser';
import { scopeWorker } from '@/engine/browser';
import type { Rendered } from '@/engine';
import { toastError } from '../theme/toast';

/** The picture that the stage shows now, for whatever measures it. */
export const useOnStage = create<{
  rendered: Rendered | null;
  scale: number;
  /** The frame that has really been drawn: drawing may lag behind what is there. */
  drawn: number | null;
}>(() => ({ rendered: null, scale: 1, drawn: null }));

/**
 * Something that a worker finds out about the picture on the stage; the last answer stays until the next is there.
 */
export function useMeasured<T>(measure: ((worker: Remote<ScopeWorker>, picture: Rendered) => Promise<T>) | null, key: string): T | null {
  const rendered = useOnStage((s) => s.rendered);
  const [answer, setAnswer] = useState<T | null>(null);
  useEffect(() => {
    if (!rendered || !measure) return undefined;
    let live = true;
    // Playing and scrubbing pass by more pictures than anybody reads figures of.
    const timer = setTimeout(() => {
      scopeWorker.call((w) => measure(w, rendered)).then((a) => live && setAnswer(() => a), toastError);
    }, 60);
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // The measure is made again with each drawing; its key says when it is another.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [rendered, key]);
  return answer;
}

'use client';
import { useEffect, useState } from 'react';
import type { Tap } from '@/core/document';
import { rect } from '@/core/geometry';
import type { RoledPass } from '@/core/passes';
import { MATERIAL_ROLES } from '@/core/passes';
import { LUMA } from '@/core/colour';
import { colourOfLayer } from '@/core/steps';
import { useBench, useShot } from '../workbench/context';
import { useView } from '../workbench/state';
import { useSeen } from '../workbench/use-picture';
import { infoAt, inputTap } from './use-input';

interface Share {
  name: string;
  kind: 'part' | 'light';
  light: number;
}

/** The nearest point with passes that add up: what is seen, else what the selected step stands on. */
function useLit(): { tap: Tap; passes: readonly RoledPass[]; channels: readonly string[] } | null {
  const { shot, tap } = useSeen();
  const frame = useView((s) => s.frame);
  const selection = useView((s) => s.selection);
  const own = selection?.kind === 'step' ? inputTap(shot, selection.id) : null;
  for (const at of [tap, own]) {
    const info = infoAt(shot, at, frame);
    const passes = info?.passes?.filter((p) => p.name !== '' && (MATERIAL_ROLES.includes(p.role) || p.role === 'light'));
    if (at && passes?.length) return { tap: at, passes, channels: info!.channels };
  }
  return null;
}

/** What lights a pixel, or a box: how much of it each part of the material and each lamp is, as rendered. */
export function Shares({ box }: { box: readonly [number, number, number, number] }) {
  const { viewer } = useBench();
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const lit = useLit();
  const [shares, setShares] = useState<readonly Share[]>([]);
  const key = lit && JSON.stringify([lit.tap, lit.passes.map((p) => p.name), box, frame]);
  useEffect(() => {
    if (!lit) return setShares([]);
    const controller = new AbortController();
    const [x0, y0, x1, y1] = box.map((v) => Math.floor(v)) as [number, number, number, number];
    const region = rect(x0, y0, Math.max(x0 + 1, x1), Math.max(y0 + 1, y1));
    const shareOf = async (pass: RoledPass): Promise<Share> => {
      const colour = colourOfLayer(lit.channels, pass.name);
      const request = { tap: lit.tap, frame, scale: 1, region, channels: [...colour, 'A'] };
      const { pixels } = await viewer.fetch(shot, request, 'thumbnail', controller.signal);
      let sum = 0;
      for (let i = 0; i < pixels.length; i += 4) for (let c = 0; c < 3; c++) sum += Math.max(0, pixels[i + c]!) * LUMA[c]!;
      return { name: pass.name, kind: pass.role === 'light' ? 'light' : 'part', light: sum / Math.max(1, pixels.length / 4) };
    };
    Promise.all(lit.passes.map(shareOf))
      .then((list) => !controller.signal.aborted && setShares(list))
      .catch(() => undefined);
    return () => controller.abort();
    // The key says it all.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [viewer, key]);
  if (shares.length === 0) return null;
  return (
    <div className="figures shares" role="status" aria-label="What lights it">
      {(['part', 'light'] as const).map((kind) => {
        const list = shares.filter((s) => s.kind === kind).sort((a, b) => b.light - a.light);
        const all = list.reduce((s, v) => s + v.light, 0);
        if (list.length === 0) return null;
        return (
          <div key={kind}>
            <div className="dust">{kind === 'part' ? 'Material' : 'Lamps'}</div>
            {list.map((s) => (
              <div key={s.name} className="share" data-testid={`share ${s.name}`}>
                <span className="ellipsis">{s.name}</span>
                <i style={{ width: `${(64 * s.light) / Math.max(1e-9, all)}px` }} />
                <span className="mono">{all > 0 ? `${((100 * s.light) / all).toFixed(0)} %` : '–'}</span>
              </div>
            ))}
          </div>
        );
      })}
    </div>
  );
}

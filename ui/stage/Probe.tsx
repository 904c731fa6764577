'use client';
import { SRGB } from '@/core/colour';
import { rect } from '@/core/geometry';
import { boxStatistics } from '@/core/scopes';
import type { Rendered } from '@/engine';
import { view } from '../workbench/state';
import { useMeasured } from './on-stage';

const text = (n: number): string => (n < 0 ? '' : ' ') + n.toFixed(4);

/** Hue in degrees, saturation and lightness of display values. */
function hsl([r, g, b]: readonly number[]): [number, number, number] {
  const [most, least] = [Math.max(r!, g!, b!), Math.min(r!, g!, b!)];
  const light = (most + least) / 2;
  const d = most - least;
  if (d < 1e-9) return [0, 0, light];
  const hue = most === r ? ((g! - b!) / d + 6) % 6 : most === g ? (b! - r!) / d + 2 : (r! - g!) / d + 4;
  return [60 * hue, d / (1 - Math.abs(2 * light - 1) || 1), light];
}

/** Figures of a box of the picture (one pixel where it was only clicked), kept up to date while frames and settings change. */
export function Probe({ box, rendered, scale }: { box: readonly [number, number, number, number]; rendered: Rendered; scale: number }) {
  const [x0, y0, x1, y1] = box.map((v) => Math.floor(v * scale)) as [number, number, number, number];
  const figures = boxStatistics(rendered, rect(x0, y0, Math.max(x0 + 1, x1), Math.max(y0 + 1, y1)));
  if (!figures) return null;
  const { min, max, mean, pixels } = figures;
  const display = mean.slice(0, 3).map((v) => SRGB.encode(Math.max(0, v)));
  const [hue, saturation, light] = hsl(display.map((v) => Math.min(1, v)));
  return (
    <div className="figures" role="status" aria-label="Probe">
      <table className="mono">
        <thead>
          <tr>
            <th>{pixels} px</th>
            <th>mean</th>
            {pixels > 1 && <th>least</th>}
            {pixels > 1 && <th>greatest</th>}
            <th>code</th>
          </tr>
        </thead>
        <tbody>
          {['R', 'G', 'B', 'A'].map((c, i) => (
            <tr key={c}>
              <td>{c}</td>
              <td>{text(mean[i]!)}</td>
              {pixels > 1 && <td>{text(min[i]!)}</td>}
              {pixels > 1 && <td>{text(max[i]!)}</td>}
              <td>{i < 3 ? Math.round(255 * Math.min(1, display[i]!)) : ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mono dust">
        hue {hue.toFixed(0)}° · saturation {(100 * saturation).toFixed(0)} % · lightness {(100 * light).toFixed(0)} %
        <button className="pill" onClick={() => view.set({ probe: null, probing: false })}>
          Close
        </button>
      </div>
    </div>
  );
}

/** How many pixels are empty, partial and solid, beside the matte audit. */
export function AuditCounts() {
  const counts = useMeasured((w, p) => w.alpha({ pixels: p.pixels, region: p.region }), 'alpha');
  if (!counts) return null;
  const all = Object.values(counts).reduce((s, v) => s + v, 0);
  const line = (name: string, n: number, warn = false) => (
    <tr className={warn && n > 0 ? 'doubt' : ''}>
      <td>{name}</td>
      <td>{n}</td>
      <td>{((100 * n) / Math.max(1, all)).toFixed(2)} %</td>
    </tr>
  );
  return (
    <div className="figures" role="status" aria-label="Matte audit">
      <table className="mono">
        <tbody>
          {line('empty, 0', counts.empty)}
          {line('partial', counts.partial)}
          {line('solid, 1', counts.solid)}
          {line('below 0', counts.below, true)}
          {line('above 1', counts.above, true)}
        </tbody>
      </table>
    </div>
  );
}

'use client';
import { useEffect, useRef } from 'react';
import type { CameraReading } from '@/core/readings';
import type { Mark } from '@/core/space';
import type { StagePlace } from '../stage/place';
import { tokens } from '../theme/tokens';
import { useView, view } from '../workbench/state';
import { useCameraWork } from './camera-jobs';
import { placeOf, useCameraAsShown, useCameraView, useTracks } from './camera-view';
import { squaresOf } from './checker-card';

/** CSS pixels around a mark that count as a click on it. */
const NEAR = 9;
/** Frames of a trail. */
const TRAIL = 10;
/** Pixels of error at which a mark is as warm as it gets. */
const WARM = 1.5;

/** A colour between sure and doubted, by an error in px. */
export function errorColour(error: number): string {
  const t = Math.min(1, error / WARM);
  const mix = (a: number, b: number): number => Math.round(a + t * (b - a));
  // From glaze through ochre.
  return `rgb(${mix(0x79, 0xd8)} ${mix(0xb0, 0xa8)} ${mix(0xa8, 0x48)})`;
}

function drawMark(c: CanvasRenderingContext2D, mark: Mark, x: number, y: number, r: number): void {
  c.beginPath();
  if (mark === 'dot') c.arc(x, y, r, 0, 2 * Math.PI);
  else if (mark === 'square') c.rect(x - r, y - r, 2 * r, 2 * r);
  else if (mark === 'diamond') {
    c.moveTo(x, y - 1.4 * r);
    c.lineTo(x + 1.4 * r, y);
    c.lineTo(x, y + 1.4 * r);
    c.lineTo(x - 1.4 * r, y);
    c.closePath();
  } else {
    c.moveTo(x - r, y - r);
    c.lineTo(x + r, y + r);
    c.moveTo(x + r, y - r);
    c.lineTo(x - r, y + r);
    c.stroke();
  }
  c.fill();
}

/** Tracks, what of them is left after solving, groups and test cards, over the picture that the camera is found in. */
export function CameraOverlay({ place, reading: stored, frame }: { place: StagePlace; reading: CameraReading; frame: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const camera = useCameraAsShown(stored);
  const cameraView = useCameraView(camera);
  const tracks = useTracks(camera);
  const chosen = useView((s) => s.tracks);
  const trails = useView((s) => s.trails);
  const work = useCameraWork();
  const finding = work.reading === stored.id && work.live.length > 0 ? work : null;

  useEffect(() => {
    const c = canvas.current?.getContext('2d');
    if (!c) return;
    const ratio = window.devicePixelRatio || 1;
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.clearRect(0, 0, place.width, place.height);
    const sx = (v: number): number => place.x + v * place.zoom;
    const sy = (v: number): number => place.y + v * place.zoom;
    if (finding) {
      c.fillStyle = tokens.glaze;
      for (let i = 0; i < finding.live.length; i += 2) drawMark(c, 'dot', sx(finding.live[i]!), sy(finding.live[i + 1]!), 2);
      return;
    }
    if (cameraView) {
      for (const card of camera.cards) {
        for (const { points, light } of squaresOf(cameraView, card, frame, camera.reference)) {
          c.beginPath();
          for (let i = 0; i < points.length; i += 2) c.lineTo(sx(points[i]!), sy(points[i + 1]!));
          c.closePath();
          c.fillStyle = light ? 'rgb(233 227 216 / 88%)' : 'rgb(36 36 36 / 88%)';
          c.fill();
        }
      }
    }
    const points = new Map((camera.solved?.points ?? []).map((p) => [p.track, p]));
    const groups = new Map(camera.groups.flatMap((g) => g.tracks.map((t) => [t, g] as const)));
    const picked = new Set(chosen);
    const hand = new Set(camera.hand);
    for (const t of tracks) {
      const at = placeOf(t, frame);
      const point = points.get(t.id);
      const group = groups.get(t.id);
      const used = point?.used ?? !camera.solved;
      const colour = group?.colour ?? (point ? (used ? errorColour(point.error) : tokens.red) : tokens.glaze);
      const where = cameraView?.point(t.id) && used ? cameraView.project(frame, cameraView.point(t.id)!) : null;
      if (at && trails) {
        c.beginPath();
        for (let f = frame - TRAIL; f <= frame; f++) {
          const p = placeOf(t, f);
          if (p) c.lineTo(sx(p[0]), sy(p[1]));
        }
        c.strokeStyle = colour;
        c.globalAlpha = 0.45;
        c.lineWidth = 1;
        c.stroke();
        c.globalAlpha = 1;
      }
      const seen = at ?? (picked.has(t.id) || group ? where : null);
      if (!seen) continue;
      const [x, y] = [sx(seen[0]), sy(seen[1])];
      c.strokeStyle = colour;
      c.fillStyle = colour;
      c.lineWidth = 1.5;
      if (!at) c.globalAlpha = 0.5;
      if (!used) {
        c.beginPath();
        c.moveTo(x - 3, y - 3);
        c.lineTo(x + 3, y + 3);
        c.moveTo(x + 3, y - 3);
        c.lineTo(x - 3, y + 3);
        c.stroke();
      } else drawMark(c, group?.mark ?? (hand.has(t.id) ? 'diamond' : 'dot'), x, y, hand.has(t.id) ? 3.5 : 2.6);
      c.globalAlpha = 1;
      if (at && where) {
        // Where the camera has its point, ten times as far off.
        c.beginPath();
        c.moveTo(x, y);
        c.lineTo(x + 10 * place.zoom * (where[0] - at[0]), y + 10 * place.zoom * (where[1] - at[1]));
        c.lineWidth = 1;
        c.stroke();
      }
      if (picked.has(t.id)) {
        c.beginPath();
        c.arc(x, y, 7, 0, 2 * Math.PI);
        c.strokeStyle = tokens.bone;
        c.lineWidth = 1.5;
        c.stroke();
      }
    }
  }, [place, camera, cameraView, tracks, chosen, trails, frame, finding]);

  const pick = (e: React.PointerEvent<HTMLCanvasElement>): void => {
    if (e.button !== 0 || document.body.dataset.space === 'down') return;
    const box = e.currentTarget.getBoundingClientRect();
    const [px, py] = [e.clientX - box.left, e.clientY - box.top];
    const group = new Set(camera.groups.flatMap((g) => g.tracks));
    let best: { id: string; d: number } | null = null;
    for (const t of tracks) {
      const spot = cameraView?.point(t.id) ?? null;
      const at = placeOf(t, frame) ?? (spot && (group.has(t.id) || chosen.includes(t.id)) ? cameraView!.project(frame, spot) : null);
      if (!at) continue;
      const d = Math.hypot(place.x + at[0] * place.zoom - px, place.y + at[1] * place.zoom - py);
      if (d < NEAR && (!best || d < best.d)) best = { id: t.id, d };
    }
    const more = e.shiftKey || e.ctrlKey || e.metaKey;
    if (!best) return more ? undefined : view.set({ tracks: [] });
    const { id } = best;
    view.set({ tracks: more ? (chosen.includes(id) ? chosen.filter((t) => t !== id) : [...chosen, id]) : [id] });
  };
  const ratio = typeof window === 'undefined' ? 1 : window.devicePixelRatio || 1;
  return (
    <div className="overlay">
      <canvas
        ref={canvas}
        data-testid="camera-overlay"
        aria-label={`Tracks of ${stored.name}: click one to choose it, with Shift to add it`}
        width={Math.round(place.width * ratio)}
        height={Math.round(place.height * ratio)}
        style={{ width: place.width, height: place.height, pointerEvents: 'auto', display: 'block' }}
        onPointerDown={pick}
      />
    </div>
  );
}

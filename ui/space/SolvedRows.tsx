'use client';
import Button from '@mui/material/Button';
import { useMemo } from 'react';
import type { CameraReading } from '@/core/readings';
import { DOUBT_WORDS, suggestPrunes, worstTracks } from '@/core/space';
import { useJob } from '../jobs/jobs';
import { useBench, useShotPart } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { pruneCamera, removeChosenTracks } from './camera-jobs';
import { useTracks } from './camera-view';

const KINDS = {
  moving: 'A moving camera',
  turning: 'It turns on the spot: there is no depth, cards can stand far away only',
  planar: 'The tracks lie on one plane: it holds on that plane, and off it only roughly',
};
const LISTED = 8;

/** How well a camera is solved, what would better go, and the tracks that miss most. */
export function SolvedRows({ reading }: { reading: CameraReading }) {
  const bench = useBench();
  const job = useJob('camera');
  const chosen = useView((s) => s.tracks);
  const readings = useShotPart('readings');
  const tracks = useTracks(reading);
  const { solved, frames } = reading;
  const prune = useMemo(() => (solved ? suggestPrunes({ ...solved, frames }) : null), [solved, frames]);
  if (!solved) return null;
  const used = solved.points.filter((p) => p.used).length;
  const focals = frames.map((f) => f.focal);
  const [least, most] = [Math.min(...focals), Math.max(...focals)];
  const slides = frames.flatMap((f) => (f.slide ? [f.slide] : []));
  const slide = (k: number): string =>
    slides.length ? Math.sqrt(slides.reduce((s, v) => s + v[k]! ** 2, 0) / slides.length).toFixed(2) : '–';
  const worst = slides.length ? frames.reduce((a, b) => ((b.slide?.[1] ?? 0) > (a.slide?.[1] ?? 0) ? b : a)) : null;
  const bridged = frames.filter((f) => f.flag === 'predicted');
  const sure = slides.length > 0 && (worst?.slide?.[1] ?? 9) < 0.5 && bridged.length === 0;
  const nameOf = (id: string): string => readings.find((r) => r.id === id)?.name ?? id;
  const show = (id: string): void => {
    const t = tracks.find((x) => x.id === id);
    if (!t) return;
    const { frame } = view.get();
    view.set({
      tracks: [id],
      ...(!t.frames.includes(frame) && { frame: t.frames[t.frames.length >> 1]! }),
      playing: false,
      seen: { ...reading.from },
    });
  };
  return (
    <div data-testid="solved">
      <p className="said">
        {KINDS[solved.kind]}. <b data-testid="camera-rms">{solved.rms.toFixed(3)} px</b> off in the mean
        {solved.expected !== undefined && ` (${solved.expected.toFixed(3)} px was expected)`}, {used} of {solved.points.length} tracks used,
        focal length {solved.zooms ? `${least.toFixed(0)}–${most.toFixed(0)}` : least.toFixed(1)} px
        {solved.bend.some((k) => k !== 0) && `, k1 ${solved.bend[0].toFixed(4)}, k2 ${solved.bend[1].toFixed(4)}`}.
      </p>
      <p
        className={`said${sure ? '' : ' warn-text'}`}
        data-testid="camera-slide"
        title="How far a card would slide over the picture, expected from how well the tracks hold the camera: near, at middle distance, far"
      >
        A card would slide by {slide(0)} px near, {slide(1)} px in the middle, {slide(2)} px far
        {worst?.slide && !sure && (
          <>
            ; most on frame{' '}
            <button className="pill" onClick={() => view.set({ frame: worst.frame, playing: false })}>
              {worst.frame}
            </button>
          </>
        )}
        .
      </p>
      {bridged.length > 0 && (
        <p className="said warn-text">
          No points hold {bridged.length === 1 ? 'frame' : 'frames'} {spans(bridged.map((f) => f.frame))}: the camera is laid between its
          neighbours there.
        </p>
      )}
      {prune && !job && (
        <div className="measure">
          <Button onClick={() => void pruneCamera(bench, reading.id)}>
            Prune {prune.tracks.length} {prune.tracks.length === 1 ? 'track' : 'tracks'}
          </Button>
          <small className="dust">about {prune.expected.toFixed(3)} px then</small>
          <button className="pill" onClick={() => view.set({ tracks: prune.tracks })}>
            show
          </button>
        </div>
      )}
      <div className="group">Tracks that miss most</div>
      {worstTracks(solved.points, LISTED).map((p) => (
        <div key={p.track} className="flagged" data-testid={`track ${p.track}`}>
          <button className={`pill${chosen.includes(p.track) ? ' on' : ''}`} onClick={() => show(p.track)}>
            {nameOf(p.track)}
          </button>
          <span className="grow" title={p.why && DOUBT_WORDS[p.why].long}>
            {p.why === 'unplaced' ? '' : `${p.error.toFixed(2)} px · `}
            {p.count} frames{p.why && ` · ${DOUBT_WORDS[p.why].short}`}
          </span>
        </div>
      ))}
      {chosen.length > 0 && (
        <div className="uses">
          <span className="dust">{chosen.length} chosen</span>
          <button
            className="pill"
            onClick={() => removeChosenTracks(bench, reading.id)}
            title="Deletes them; those by hand are only left out"
          >
            Delete
          </button>
          <button className="pill" onClick={() => view.set({ tracks: [] })}>
            Choose none
          </button>
        </div>
      )}
      <div className="uses">
        <button
          className="pill"
          onClick={() =>
            view.set({ drawing: { kind: 'tracks', reading: reading.id }, brushing: null, picking: null, seen: { ...reading.from } })
          }
        >
          Choose around
        </button>
      </div>
    </div>
  );
}

/** "4–7, 12" */
export function spans(list: readonly number[]): string {
  const parts: string[] = [];
  for (let i = 0; i < list.length;) {
    let j = i;
    while (list[j + 1] === list[j]! + 1) j++;
    parts.push(i === j ? String(list[i]) : `${list[i]}–${list[j]}`);
    i = j + 1;
  }
  return parts.join(', ');
}

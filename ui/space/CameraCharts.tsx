'use client';
import { useMemo } from 'react';
import { Bar, BarChart, CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { CameraReading } from '@/core/readings';
import { HELD_BY, seenFrom } from '@/core/space';
import { useView, view } from '../workbench/state';
import { errorColour } from './CameraOverlay';
import { placeOf, useCameraAsShown, useCameraView, useTracks } from './camera-view';

const GLAZE = 'var(--glaze)';
const OCHRE = 'var(--ochre)';
const DUST = 'var(--dust)';

/** How well a camera holds, by frame and by track, and where its tracks are. */
export function CameraCharts({ reading: stored }: { reading: CameraReading }) {
  const reading = useCameraAsShown(stored);
  const { frames, solved } = reading;
  const tracks = useTracks(stored);
  const rows = useMemo(
    () =>
      frames.map((f) => ({ frame: f.frame, error: f.error, near: f.slide?.[0], middle: f.slide?.[1], far: f.slide?.[2], focal: f.focal })),
    [frames],
  );
  const worst = useMemo(
    () =>
      [...(solved?.points ?? [])]
        .filter((p) => p.used)
        .sort((a, b) => b.error - a.error)
        .slice(0, 60),
    [solved],
  );
  if (tracks.length === 0 && !solved)
    return <div className="empty">“{reading.name}” has no tracks yet: select it and press Find tracks in Controls.</div>;
  return (
    <section className="reading-charts" aria-label={`Charts of ${reading.name}`}>
      <Coverage reading={reading} />
      {solved && solved.points.length > 0 && (
        <>
          <Curves
            title="Error by frame, px"
            help="Root mean square of the distances between tracks and where the camera has their points"
            rows={rows}
            lines={[['error', GLAZE, '']]}
          />
          {rows.some((r) => r.middle !== undefined) && (
            <Curves
              title="Slide of a card, px"
              help="How far a card would be expected to slide over the picture: the error alone does not tell"
              rows={rows}
              lines={[
                ['near', OCHRE, 'near'],
                ['middle', GLAZE, 'middle'],
                ['far', DUST, 'far'],
              ]}
            />
          )}
          <figure
            title="Root mean square of each track, those that miss most first; click one to choose it"
            data-testid="chart Error by track, px"
          >
            <figcaption>Error by track, px</figcaption>
            <ResponsiveContainer width="100%" height={120}>
              <BarChart data={worst} margin={{ top: 6, right: 10, bottom: 0, left: 0 }}>
                <CartesianGrid stroke="var(--line)" vertical={false} />
                <XAxis dataKey="track" tick={false} height={6} />
                <YAxis width={44} tick={{ fontSize: 10, fill: DUST }} />
                <Tooltip
                  formatter={(v) => [`${Number(v).toFixed(2)} px`, 'error']}
                  contentStyle={{ background: 'var(--shelf)', border: 0 }}
                  cursor={{ fill: 'rgb(255 255 255 / 5%)' }}
                />
                <Bar
                  dataKey="error"
                  fill={GLAZE}
                  isAnimationActive={false}
                  onClick={(d) => view.set({ tracks: [(d as unknown as { track: string }).track] })}
                />
              </BarChart>
            </ResponsiveContainer>
          </figure>
        </>
      )}
      {solved?.zooms && (
        <Curves title="Focal length, px" help="As it was found, frame by frame" rows={rows} lines={[['focal', GLAZE, '']]} />
      )}
    </section>
  );
}

type Row = Record<string, number | undefined>;

function Curves({
  title,
  help,
  rows,
  lines,
}: {
  title: string;
  help: string;
  rows: readonly Row[];
  lines: readonly (readonly [string, string, string])[];
}) {
  const frame = useView((s) => s.frame);
  return (
    <figure title={help} data-testid={`chart ${title}`}>
      <figcaption>
        {title}
        {lines.map(
          ([key, colour, label]) =>
            label && (
              <span key={key} className="legend">
                <i style={{ background: colour }} /> {label}
              </span>
            ),
        )}
      </figcaption>
      <ResponsiveContainer width="100%" height={120}>
        <LineChart
          data={[...rows]}
          margin={{ top: 6, right: 10, bottom: 0, left: 0 }}
          onClick={(e) => e.activeLabel !== undefined && view.set({ frame: Number(e.activeLabel), playing: false })}
        >
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis dataKey="frame" type="number" domain={['dataMin', 'dataMax']} tick={{ fontSize: 10, fill: DUST }} />
          <YAxis width={44} domain={[title.startsWith('Focal') ? 'auto' : 0, 'auto']} tick={{ fontSize: 10, fill: DUST }} />
          <Tooltip
            formatter={(v, name) => [`${Number(v).toFixed(3)} px`, name]}
            labelFormatter={(f) => `frame ${String(f)}`}
            contentStyle={{ background: 'var(--shelf)', border: 0 }}
          />
          <ReferenceLine x={frame} stroke="var(--clay)" />
          {lines.map(([key, colour, label]) => (
            <Line key={key} dataKey={key} name={label || 'error'} stroke={colour} dot={false} strokeWidth={1.5} isAnimationActive={false} />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </figure>
  );
}

/**
 * Where tracks are, by frame: left, middle and right of the picture, and, once it is solved, near, at middle distance and far. Dark cells want points.
 */
function Coverage({ reading }: { reading: CameraReading }) {
  const tracks = useTracks(reading);
  const cameraView = useCameraView(reading);
  const frame = useView((s) => s.frame);
  const { first, last } = reading.range;
  const { rows, least } = useMemo(() => {
    const count = last - first + 1;
    const width = reading.solved?.format.width ?? Math.max(1, ...tracks.flatMap((t) => t.at.filter((_, i) => i % 2 === 0)));
    const made = [
      'all',
      'left',
      'middle',
      'right',
      ...(cameraView && reading.solved?.kind !== 'turning' ? ['near', 'mid depth', 'far'] : []),
    ].map((name) => ({ name, counts: new Int32Array(count) }));
    const used = new Map(reading.solved?.points.map((p) => [p.track, p.used]));
    const depths = reading.solved?.depths ?? [0, 0, 0];
    const [edge1, edge2] = [Math.sqrt(depths[0] * depths[1]), Math.sqrt(depths[1] * depths[2])];
    for (let f = first; f <= last; f++) {
      const pose = cameraView?.poseAt(f);
      for (const t of tracks) {
        if (used.get(t.id) === false) continue;
        const at = placeOf(t, f);
        if (!at) continue;
        made[0]!.counts[f - first]!++;
        made[1 + Math.min(2, Math.max(0, Math.floor((3 * at[0]) / width)))]!.counts[f - first]!++;
        const p = cameraView?.point(t.id);
        if (!pose || !p || made.length < 7) continue;
        const z = seenFrom(pose, p)[2] / reading.placing.scale;
        made[z < edge1 ? 4 : z < edge2 ? 5 : 6]!.counts[f - first]!++;
      }
    }
    return { rows: made, least: Math.min(...made[0]!.counts) };
  }, [tracks, cameraView, first, last, reading.solved, reading.placing.scale]);
  return (
    <figure title="How many tracks are where, on each frame: bright is eight or more" data-testid="coverage">
      <figcaption>
        Tracks by place and frame <span className={least < HELD_BY ? 'warn-text' : 'dust'}>fewest {least}</span>
      </figcaption>
      <div className="coverage" role="img" aria-label={`Fewest tracks on a frame: ${least}`}>
        {rows.map(({ name, counts }) => (
          <div key={name} className="coverage-row">
            <small className="dust">{name}</small>
            <svg
              viewBox={`0 0 ${counts.length} 1`}
              preserveAspectRatio="none"
              width="100%"
              height={9}
              onClick={(e) => {
                const box = e.currentTarget.getBoundingClientRect();
                view.set({
                  frame: first + Math.min(counts.length - 1, Math.floor(((e.clientX - box.left) / box.width) * counts.length)),
                  playing: false,
                });
              }}
            >
              {[...counts].map((n, i) => (
                <rect
                  key={i}
                  x={i}
                  y={0}
                  width={1.02}
                  height={1}
                  fill={n === 0 ? 'var(--red)' : errorColour(1.5 - (1.5 * Math.min(HELD_BY, n)) / HELD_BY)}
                  opacity={0.25 + (0.75 * Math.min(HELD_BY, n)) / HELD_BY}
                />
              ))}
              <rect x={frame - first} y={0} width={0.4} height={1} fill="var(--clay)" />
            </svg>
          </div>
        ))}
      </div>
    </figure>
  );
}

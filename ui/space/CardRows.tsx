'use client';
import type { CameraReading } from '@/core/readings';
import type { CameraView } from '@/core/space';
import { seenFrom } from '@/core/space';
import { space } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { useRun } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { useCameraView } from './camera-view';

/** Cards that one click puts up. */
const CARDS = 6;

/** Tracks whose points are spread over the picture and over depth, as a frame sees them, long ones first. */
function spreadOver(camera: CameraReading, cameraView: CameraView, frame: number): string[] {
  const pose = cameraView.poseAt(frame);
  if (!pose || !camera.solved) return [];
  const { width, height } = camera.solved.format;
  const seen = camera.solved.points.flatMap((p) => {
    if (!p.used || p.why) return [];
    const at = cameraView.project(frame, cameraView.point(p.track)!);
    return at && at[0] > 0 && at[1] > 0 && at[0] < width && at[1] < height
      ? [{ id: p.track, at: [at[0] / width, at[1] / height, Math.log(at[2])], n: p.count }]
      : [];
  });
  const chosen: typeof seen = [];
  for (const first of seen.sort((a, b) => b.n - a.n).slice(0, 1)) chosen.push(first);
  const apart = (p: (typeof seen)[number]): number =>
    Math.min(...chosen.map((q) => Math.hypot(p.at[0]! - q.at[0]!, p.at[1]! - q.at[1]!, 0.5 * (p.at[2]! - q.at[2]!))));
  while (chosen.length < Math.min(CARDS, seen.length))
    chosen.push(seen.reduce((a, b) => (apart(b) * Math.sqrt(b.n) > apart(a) * Math.sqrt(a.n) ? b : a)));
  return chosen.map((p) => p.id);
}

/** Checker cards at points and on the ground: the eye sees at once whether they stand still. */
export function CardRows({ reading }: { reading: CameraReading }) {
  const run = useRun();
  const cameraView = useCameraView(reading);
  const chosen = useView((s) => s.tracks);
  if (!cameraView) return null;
  const frame = (): number => (cameraView.has(view.get().frame) ? view.get().frame : cameraView.frames[0]!);
  /** About a twelfth of the picture's width at the distance of a point. */
  const sizeAt = (track: string): number => {
    const pose = cameraView.poseAt(frame())!;
    const p = track === '' ? null : cameraView.point(track);
    const z = p ? seenFrom(pose, p)[2] : (reading.solved?.depths[1] ?? 1) * reading.placing.scale;
    return Number(((Math.abs(z) * (reading.solved?.format.width ?? 960)) / 12 / cameraView.focalAt(frame())).toPrecision(2));
  };
  const put = (tracks: readonly string[], lies: 'facing' | 'ground'): void =>
    void run('Test cards', (s) => tracks.forEach((t) => space.addCards(reading.id, [t], lies, sizeAt(t))(s)));
  return (
    <>
      <div className="group">Test cards</div>
      <div className="uses">
        <button
          className="pill"
          title="On points that are spread over the picture and over depth"
          onClick={() => put(spreadOver(reading, cameraView, frame()), 'facing')}
        >
          Place {CARDS}
        </button>
        <button className="pill" disabled={chosen.length === 0} onClick={() => put(chosen, 'facing')}>
          On chosen points
        </button>
        <button
          className="pill"
          title="Flat, at the chosen points, or at the origin"
          onClick={() => put(chosen.length ? chosen : [''], 'ground')}
        >
          On the ground
        </button>
        {reading.cards.length > 0 && (
          <button
            className="pill"
            onClick={() => run('Remove cards', (s) => reading.cards.forEach((c) => space.changeCard(reading.id, c.id, null)(s)))}
          >
            Remove all
          </button>
        )}
      </div>
      {reading.cards.map((c) => (
        <div key={c.id} className="flagged" data-testid="card">
          <span className="grow ellipsis">
            {c.lies === 'ground' ? 'flat' : 'upright'} at {c.track || 'the origin'}
          </span>
          <span className="short-field" title="Its side, in units of the world">
            <NumberField
              label={`Size of the card at ${c.track || 'the origin'}`}
              value={c.size}
              min={1e-6}
              max={1e6}
              decimals={3}
              step={0.1}
              onChange={(size) => run('Card size', space.changeCard(reading.id, c.id, { size }))}
              onProblem={() => undefined}
            />
          </span>
          <button
            className="pill"
            aria-label={`Take away the card at ${c.track || 'the origin'}`}
            onClick={() => run('Remove card', space.changeCard(reading.id, c.id, null))}
          >
            ×
          </button>
        </div>
      ))}
    </>
  );
}

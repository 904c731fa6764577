import type { Draft } from 'immer';
import { produce } from 'immer';
import { lightOfRing, planesOf, ringShots } from '@/core/cleaning';
import type { GrainLook } from '@/core/grain';
import { measureGrain } from '@/core/grain';
import type { Key, Lane, Param, Shot, Step, Tap } from '@/core/document';
import { RGBA } from '@/core/picture';
import type { nodeHost } from '@/engine/node';
import type { RemoveOptions, Removed } from '@/core/assemblies';
import { removeThis } from '@/core/assemblies';
import { newShot, setParam } from '@/core/commands';
import type { Reading } from '@/core/readings';

/** A shot file as it is written: sources name their files, what headers say is left out. */
export type Written = Omit<Shot, 'sources'> & { sources: { id: string; name: string; path: string; colourSpace: string }[] };

interface Part {
  params?: Record<string, Param>;
  feeds?: Record<string, Tap>;
  mask?: Step['mask'];
}

export const step = (id: string, type: string, name: string, { params = {}, feeds = {}, mask }: Part = {}): Step => ({
  id,
  type,
  name,
  on: true,
  params,
  feeds,
  mix: 1,
  ...(mask && { mask }),
});

export const lane = (id: string, name: string, start: Lane['start'], steps: Step[]): Lane => ({
  id,
  name,
  start,
  steps,
  muted: false,
  collapsed: false,
});

/** An empty shot of the demo film's format. */
export const film = (id: string, name: string): Written => ({
  ...newShot(name),
  id,
  format: { width: 960, height: 540, pixelAspect: 1 },
  sources: [],
});

export const tenth = (v: number): number => Math.round(v * 10) / 10;
/** Eight digits of a number, and tenths of pixels for features. */
export const lean = (readings: readonly Reading[]): Reading[] =>
  JSON.parse(
    JSON.stringify(readings, (key, v: unknown) =>
      (key === 'used' || key === 'rejected') && Array.isArray(v)
        ? (v as number[]).map(tenth)
        : typeof v === 'number' && !Number.isInteger(v)
          ? Number(v.toPrecision(8))
          : v,
    ),
  ) as Reading[];

type Host = Awaited<ReturnType<typeof nodeHost>>;

/**
 * A thing taken out of a shot as the command does it: with the plate's grain, and the light of each frame as keys. `ids` begins the ids of what is
 * made, so that the file is the same each time. The shot's sources must be those of an opened file.
 */
export async function withRemoved(host: Host, shot: Shot, o: RemoveOptions, ids: string): Promise<Shot> {
  const look = async (of: Shot, tap: Tap, frame: number) => (await host.render(of, { tap, frame, scale: 1, channels: RGBA })).pixels;
  const { width: w, height: h } = shot.format;
  const looks: GrainLook[] = [];
  for (const f of [1, 12, 24, 36, 48]) looks.push({ w, h, planes: planesOf(await look(shot, o.tap, f)).planes });
  const made: Removed = {};
  const done = produce(shot, (d) => removeThis({ ...o, grain: measureGrain(looks) }, made)(d as Draft<Shot>));
  const patch = done.lanes.find((l) => l.id === made.lane)!.steps.find((s) => s.id === made.patch)!;
  const { inside, wide } = ringShots(done, patch);
  const [below, own]: Tap[] = [
    { lane: made.lane!, after: '' },
    { lane: made.lane!, after: made.patch! },
  ];
  const keys: Key[] = [];
  for (let frame = shot.range.first; frame <= shot.range.last; frame++) {
    const [plate, over, place] = [await look(done, below!, frame), await look(wide, own!, frame), await look(inside, own!, frame)].map(
      planesOf,
    );
    const fit = lightOfRing(plate!, over!, place!, false);
    if (fit.pixels > 0) keys.push({ frame, value: fit.gain.map((v) => Number(v.toPrecision(5))), ease: 'linear' });
  }
  const lit = produce(done, (d) => {
    setParam(made.patch!, 'gain', { keys })(d as Draft<Shot>);
    setParam(made.patch!, 'light', 'keys')(d as Draft<Shot>);
  });
  return named(lit, shot, ids);
}

/** Ids of what was made by the place it has, in the place of random ones. */
function named(shot: Shot, before: Shot, begin: string): Shot {
  const known = new Set(before.lanes.flatMap((l) => [l.id, ...l.steps.map((s) => s.id)]));
  const short = (s: string): string => s.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  const ids = new Map<string, string>();
  for (const l of shot.lanes) {
    if (!known.has(l.id)) ids.set(l.id, `${begin}-${short(l.name)}`);
    for (const s of l.steps) {
      if (!known.has(s.id)) ids.set(s.id, `${begin}-${short(l.name)}-${short(s.name)}`);
      const { shapes } = s.params;
      if (Array.isArray(shapes) && !known.has(s.id))
        (shapes as { id: string }[]).forEach((x, i) => ids.set(x.id, `${begin}-outline-${i + 1}`));
    }
  }
  return JSON.parse(JSON.stringify(shot, (_, v: unknown) => (typeof v === 'string' ? (ids.get(v) ?? v) : v))) as Shot;
}

/** A shot of an opened file as it is written: sources name their files again. */
export const written = (shot: Shot, sources: Written['sources']): Written => ({ ...shot, sources });

import type { Draft } from 'immer';
import type { Shot, Tap } from '../document';
import { ShotError } from '../errors';
import type { CameraReading } from '../readings';
import type { Assessed, CameraParts, CameraSettings, FoundTrack, Placing, PointGroup, TestCard } from '../space';
import { FIND_SETTINGS, NEW_CAMERA, placingFor } from '../space';
import type { Change } from './commands';
import { readingOf } from './change';
import { freeName, newId } from './make';
import { aboutReading } from './readings';

export const cameraOf = (s: Draft<Shot>, id: string): Draft<CameraReading> => {
  const r = readingOf(s, id);
  if (r.kind !== 'camera') throw new ShotError('that reading is no camera');
  return r;
};

/** Right after the last step of a lane that straightens, if what comes before a tap is straightened; else the tap, and what its pixels are bent by. */
function straightestIn(s: Draft<Shot>, from: Tap): { from: Tap; straight: boolean } {
  const lane = s.lanes.find((l) => l.id === from.lane);
  const end = from.after === '' ? -1 : (lane?.steps.findIndex((x) => x.id === from.after) ?? -1);
  const step = lane?.steps.slice(0, end + 1).findLast((x) => x.type === 'lens' && x.on && x.params.direction !== 'bend');
  return step ? { from: { lane: from.lane, after: step.id }, straight: true } : { from, straight: false };
}

/** A camera that is to be found in a picture, in its straight pixels where there are some; what points there are by hand are used. */
export const addCamera =
  (tap: Tap, frame: number, made: { reading?: string } = {}): Change =>
  (s) => {
    const given = aboutReading(s, tap, frame, 'Camera 1');
    const { from, straight } = straightestIn(s, given.from);
    const about = { ...given, from: { lane: from.lane, after: from.after ?? '' } };
    const lens = straight ? undefined : s.readings.find((r) => r.kind === 'lens' && r.solved.length > 0);
    const hand = s.readings
      .filter((r) => r.kind === 'point' && r.frames.length > 1 && r.from.lane === about.from.lane && r.from.after === about.from.after)
      .map((r) => r.id);
    const settings: CameraSettings = {
      ...NEW_CAMERA.settings,
      ...(lens && { lens: lens.id }),
      ...((lens || straight) && { focal: 'lens' as const }),
    };
    const reading: CameraReading = { ...about, ...NEW_CAMERA, kind: 'camera', channel: 'luma', settings, hand };
    made.reading = reading.id;
    s.readings.push(reading as Draft<CameraReading>);
  };

/** A camera that was read from a file. */
export const addReadCamera =
  (from: Tap, frame: number, name: string, parts: CameraParts, made: { reading?: string } = {}): Change =>
  (s) => {
    const about = aboutReading(s, from, frame, name);
    const frames = parts.frames.map((f) => f.frame);
    const range = { first: Math.min(...frames), last: Math.max(...frames) };
    made.reading = about.id;
    s.readings.push({ ...about, ...parts, range, kind: 'camera', channel: 'luma' } as Draft<CameraReading>);
  };

/** Solved from something that is no longer so. */
const outdate = (r: Draft<CameraReading>): void => {
  if (r.solved) r.stale = true;
};

export const changeCamera =
  (id: string, change: Partial<Pick<CameraParts, 'exclude' | 'hand'>> & { settings?: Partial<CameraSettings> }): Change =>
  (s) => {
    const r = cameraOf(s, id);
    Object.assign(r, change, { settings: { ...r.settings, ...change.settings } });
    // How tracks are found says nothing of those that are there.
    if (change.hand || Object.keys(change.settings ?? {}).some((k) => !(k in FIND_SETTINGS))) outdate(r);
  };

export const setTracks =
  (id: string, tracks: readonly FoundTrack[]): Change =>
  (s) => {
    const r = cameraOf(s, id);
    r.tracks = tracks as Draft<FoundTrack[]>;
    // Points belong to tracks: of new ones there are none yet.
    forget(r);
  };

/** What was solved goes, with what hung on its points. */
function forget(r: Draft<CameraReading>): void {
  r.solved = null;
  r.frames = [];
  r.groups = [];
  r.cards = [];
  delete r.stale;
}

/** Tracks that are not to be used: found ones go, those by hand are only left out. */
export const removeTracks =
  (id: string, tracks: readonly string[], expected?: number): Change =>
  (s) => {
    const r = cameraOf(s, id);
    const gone = new Set(tracks);
    r.tracks = r.tracks.filter((t) => !gone.has(t.id));
    r.hand = r.hand.filter((h) => !gone.has(h));
    if (r.solved) {
      r.solved.points = r.solved.points.filter((p) => !gone.has(p.track));
      if (expected !== undefined) r.solved.expected = expected;
    }
    for (const g of r.groups) g.tracks = g.tracks.filter((t) => !gone.has(t));
    r.cards = r.cards.filter((c) => !gone.has(c.track));
    outdate(r);
  };

/** What was solved takes the place of what there was; the frame of reference stays where it was put. */
export const setCamera =
  (id: string, made: Assessed, format: { readonly width: number; readonly height: number }): Change =>
  (s) => {
    const r = cameraOf(s, id);
    const expected = r.stale ? r.solved?.expected : undefined;
    r.placing = placingFor(made, r as CameraReading) as Draft<Placing>;
    const { frames, ...rest } = made;
    r.frames = frames as Draft<typeof frames> as never;
    const size = { width: format.width, height: format.height };
    r.solved = { ...rest, format: size, ...(expected !== undefined && { expected }) } as never;
    const there = new Set(made.points.filter((p) => p.why !== 'unplaced').map((p) => p.track));
    for (const g of r.groups) g.tracks = g.tracks.filter((t) => there.has(t));
    r.cards = r.cards.filter((c) => c.track === '' || there.has(c.track));
    delete r.stale;
  };

export const setPlacing =
  (id: string, placing: Placing): Change =>
  (s) => {
    cameraOf(s, id).placing = placing as Draft<Placing>;
  };

const COLOURS = ['#e0a458', '#7fb3a8', '#c97b63', '#9aa86b', '#8fa3c7', '#d6cfc0'];

export const addGroup =
  (id: string, tracks: readonly string[], made: { group?: string } = {}): Change =>
  (s) => {
    const r = cameraOf(s, id);
    if (tracks.length === 0) throw new ShotError('a group needs points: select some on the stage first');
    const group: PointGroup = {
      id: newId(),
      name: freeName(
        'Group 1',
        r.groups.map((g) => g.name),
      ),
      colour: COLOURS[r.groups.length % COLOURS.length]!,
      mark: 'square',
      tracks,
    };
    made.group = group.id;
    r.groups.push(group as Draft<PointGroup>);
  };

export const changeGroup =
  (id: string, group: string, change: Partial<Omit<PointGroup, 'id'>> | null): Change =>
  (s) => {
    const r = cameraOf(s, id);
    const index = r.groups.findIndex((g) => g.id === group);
    if (index < 0) throw new ShotError('that group is no longer there');
    if (change) Object.assign(r.groups[index]!, change);
    else r.groups.splice(index, 1);
  };

export const addCards =
  (id: string, tracks: readonly string[], lies: TestCard['lies'], size: number): Change =>
  (s) => {
    const r = cameraOf(s, id);
    for (const track of tracks) r.cards.push({ id: newId(), track, lies, size });
  };

export const changeCard =
  (id: string, card: string, change: Partial<Omit<TestCard, 'id'>> | null): Change =>
  (s) => {
    const r = cameraOf(s, id);
    const index = r.cards.findIndex((c) => c.id === card);
    if (index < 0) throw new ShotError('that card is no longer there');
    if (change) Object.assign(r.cards[index]!, change);
    else r.cards.splice(index, 1);
  };

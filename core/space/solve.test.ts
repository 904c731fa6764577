import { angleBetween } from '../geometry/rotation';
import { alignCameras, placedPose } from './align';
import type { Assessed } from './assess';
import { eyeOf, poseOfMatrix } from './pose';
import { suggestPrunes } from './prunes';
import { solveCamera, solvedCamera } from './solve';
import type { Clip, ClipMove, ClipOptions } from './testing';
import { CLIP_FORMAT, makeClip } from './testing';

const solved = (clip: Clip, more: Partial<Parameters<typeof solvedCamera>[0]> = {}): Assessed =>
  solvedCamera({ tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 'found', bend: false, ...more });

/** How far the eyes lie from the truth, in shares of the path, and the widest turn between, degrees, after both are laid on each other. */
function against(clip: Clip, made: Assessed): { path: number; turn: number } {
  const found = made.frames.map((f) => poseOfMatrix(f.matrix));
  const truth = made.frames.map((f) => clip.truth[f.frame - 1]!.pose);
  const placing = alignCameras(found, truth)!;
  const laid = found.map((p) => placedPose(placing, p));
  const apart = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((v, i) => v - b[i]!));
  const length = truth.slice(1).reduce((s, p, i) => s + apart(eyeOf(p), eyeOf(truth[i]!)), 0);
  const off = Math.sqrt(laid.reduce((s, p, i) => s + apart(eyeOf(p), eyeOf(truth[i]!)) ** 2, 0) / laid.length);
  return {
    path: off / Math.max(1e-9, length),
    turn: (Math.max(...laid.map((p, i) => angleBetween(p.turn, truth[i]!.turn))) * 180) / Math.PI,
  };
}

const clipOf = (move: ClipMove, options: ClipOptions = {}): Clip =>
  makeClip(move, { frames: 32, tracks: 110, noise: 0.15, seed: 4, ...options });

describe('finding the camera', () => {
  it.each(['dolly', 'handheld', 'orbit'] as const)('%s: moving, the path within half a percent, the focal length too', (move) => {
    const clip = clipOf(move);
    const made = solved(clip);
    expect(made.kind).toBe('moving');
    expect(made.frames).toHaveLength(32);
    expect(against(clip, made).path).toBeLessThan(0.005);
    expect(Math.abs(made.frames[0]!.focal / 780 - 1)).toBeLessThan(0.005);
    expect(made.rms).toBeLessThan(0.3);
    expect(Math.max(...made.frames.map((f) => f.slide![1]))).toBeLessThan(0.5);
  });

  it('leaves out what moves, and says so', () => {
    const clip = clipOf('handheld', { movers: 0.2 });
    const made = solved(clip, { focal: 780 });
    expect(against(clip, made).path).toBeLessThan(0.01);
    const movers = made.points.filter((p) => p.track.startsWith('m'));
    expect(movers.length).toBeGreaterThan(10);
    expect(movers.filter((p) => p.used).length).toBeLessThanOrEqual(1);
    expect(movers.find((p) => !p.used)!.why).toMatch(/moves|unplaced/);
  });

  it('goes on while a third of the picture is covered', () => {
    const clip = clipOf('dolly', { covered: [12, 22] });
    const made = solved(clip, { focal: 780 });
    expect(made.frames).toHaveLength(32);
    expect(against(clip, made).path).toBeLessThan(0.005);
  });

  it('is held by eight points by hand', () => {
    const clip = clipOf('dolly', { hand: true, tracks: 8 });
    expect(against(clip, solved(clip)).path).toBeLessThan(0.01);
  });

  it('tells a turn on the spot', () => {
    const clip = clipOf('turn');
    const made = solved(clip);
    expect(made.kind).toBe('turning');
    expect(against(clip, made).turn).toBeLessThan(0.05);
  });

  it('tells a flat scene', () => {
    expect(solved(clipOf('wall')).kind).toBe('planar');
  });

  it('tells a zoom, and how far it goes', () => {
    const clip = clipOf('zoom');
    const made = solved(clip);
    expect(made.zooms).toBe(true);
    const told = made.frames[31]!.focal / made.frames[0]!.focal;
    expect(told / (clip.truth[31]!.focal / clip.truth[0]!.focal)).toBeCloseTo(1, 2);
  });

  it('finds how a lens bends', () => {
    const made = solved(clipOf('handheld', { k1: -0.12 }), { bend: true, focal: 780 });
    expect(made.bend[0]).toBeCloseTo(-0.12, 2);
  });

  it('gives the same again, and goes on from what it had', () => {
    const clip = clipOf('dolly', { frames: 20, tracks: 60 });
    const made = solved(clip, { focal: 780 });
    expect(solved(clip, { focal: 780 })).toEqual(made);
    const fewer = { ...clip, tracks: clip.tracks.slice(6) };
    const again = solved(fewer, { from: made, focal: 780 });
    expect(against(clip, again).path).toBeLessThan(0.01);
    expect(again.points).toHaveLength(fewer.tracks.length);
  });

  it('lays frames without tracks between their neighbours, and flags them', () => {
    const clip = clipOf('dolly', { hand: true, tracks: 40 });
    const gap = (f: number): boolean => f >= 15 && f <= 17;
    const tracks = clip.tracks.map((t) => {
      const keep = t.frames.map((f) => !gap(f));
      return { ...t, frames: t.frames.filter((_, i) => keep[i]), at: t.at.filter((_, i) => keep[i >> 1]) };
    });
    const made = solved({ ...clip, tracks }, { focal: 780 });
    expect(made.frames.filter((f) => f.flag === 'predicted').map((f) => f.frame)).toEqual([15, 16, 17]);
    expect(made.frames[15]!.flag).toBe('predicted');
    expect(against(clip, made).path).toBeLessThan(0.01);
  });

  it('suggests to take out a track that drifts, with the error then', () => {
    const clip = clipOf('dolly', { hand: true, tracks: 60 });
    const tracks = clip.tracks.map((t, k) => (k === 7 ? { ...t, at: t.at.map((v, i) => v + Math.max(0, (i >> 1) - 20) * 0.3) } : t));
    const made = solved({ ...clip, tracks }, { focal: 780 });
    const left = made.points.find((p) => p.track === tracks[7]!.id)!;
    const prune = suggestPrunes(made);
    expect(!left.used || left.why === 'drifts' || prune?.tracks.includes(left.track)).toBe(true);
    if (prune) {
      const again = solved({ ...clip, tracks: tracks.filter((t) => !prune.tracks.includes(t.id)) }, { from: made, focal: 780 });
      expect(again.rms / prune.expected).toBeCloseTo(1, 0);
    }
  });

  it('says where it is, with the camera as it stands', () => {
    const clip = clipOf('dolly', { frames: 16, tracks: 50 });
    const stages = [];
    const work = solveCamera({ tracks: clip.tracks, range: clip.frames, format: CLIP_FORMAT, focal: 780, bend: false });
    for (let step = work.next(); !step.done; step = work.next()) stages.push(step.value);
    expect(stages.map((s) => s.share)).toEqual([...stages.map((s) => s.share)].sort((a, b) => a - b));
    expect(stages.some((s) => s.so && s.so.frames.length === 16)).toBe(true);
  });

  describe('what cannot be solved is told, with what to do', () => {
    const few = clipOf('dolly', { hand: true, tracks: 20 });
    const cut = (clip: Clip, last: number): Clip => ({
      ...clip,
      tracks: clip.tracks.map((t) => ({ ...t, frames: t.frames.slice(0, last), at: t.at.slice(0, 2 * last) })),
    });
    it.each([
      ['no tracks', { ...few, tracks: [] }, /no tracks.*find tracks/],
      ['two frames', cut(few, 2), /two frames only.*three or more/],
      ['five tracks', { ...few, tracks: few.tracks.slice(0, 5) }, /only 5 tracks.*needs 6/],
      [
        'a camera that stands still',
        { ...few, tracks: few.tracks.map((t) => ({ ...t, at: t.at.map((_, i) => t.at[i % 2]!) })) },
        /nothing in the picture moves/,
      ],
    ] as const)('%s', (_, clip, told) => {
      expect(() => solved(clip as Clip)).toThrow(told);
    });
  });
});

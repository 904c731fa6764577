import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { makeClip } from '@/core/space/testing';
import { refused, run } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'ostracon-camera-'));
const plate = 'demo/media/sg050/slipway.####.jpg';
const clip = makeClip('dolly', { frames: 12, tracks: 30, hand: true, noise: 0.05 });
const tracks = join(folder, 'tracks.csv');
writeFileSync(
  tracks,
  ['track,frame,x,y', ...clip.tracks.flatMap((t) => t.frames.map((f, i) => [t.id, f, t.at[2 * i], t.at[2 * i + 1]].join(',')))].join('\n'),
);

describe('read camera and export camera', () => {
  test('tracks by hand of a table give cameras, focal length and points', () => {
    const read = run('read', 'camera', plate, '--frames', '1-12', '--tracks', tracks, '--hand-only', '--json');
    expect(read.err).toBe('');
    const json = JSON.parse(read.out) as {
      cameras: { frame: number; matrix: number[] }[];
      focal: number;
      points: { id: string; at: number[]; error: number }[];
      kind: string;
      rms: number;
    };
    expect(json.kind).toBe('moving');
    expect(json.cameras.map((c) => c.frame)).toEqual(clip.truth.map((_, i) => i + 1));
    expect(json.cameras[0]!.matrix).toHaveLength(12);
    expect(json.focal / 780).toBeCloseTo(1, 1);
    expect(json.rms).toBeLessThan(0.2);
    // The matrix takes a point to where its track is: x right, y down, z forward.
    const [track, point] = [clip.tracks[4]!, json.points.find((p) => p.id === clip.tracks[4]!.id)!];
    const m = json.cameras[6]!.matrix;
    const [x, y, z] = [0, 1, 2].map((r) => point.at.reduce((s, v, i) => s + m[4 * r + i]! * v, m[4 * r + 3]!)) as [number, number, number];
    expect(480 + (json.focal * x) / z).toBeCloseTo(track.at[12]!, 0);
    expect(270 + (json.focal * y) / z).toBeCloseTo(track.at[13]!, 0);
  });

  test('found tracks of a few frames, by the lens’s focal length', () => {
    const read = run('read', 'camera', plate, '--frames', '40-64', '--focal', '22.65', '--sensor', '36', '--count', '80');
    expect(read.err).toBe('');
    expect(read.out).toMatch(/^moving\nframes 40-64, \d+ of \d+ tracks used\nfocal 604\.00 px\nerror \d\.\d{3} px\na card would slide by/);
  });

  test('a shot’s camera goes out as .glb and .usda', async () => {
    const [glb, usda] = [join(folder, 'cam.glb'), join(folder, 'cam.usda')];
    expect(run('export', 'camera', 'demo/shots/sg050.json', '--out', glb)).toMatchObject({ status: 0, err: '' });
    const { issues } = await validateBytes(new Uint8Array(readFileSync(glb)));
    expect(issues.numErrors).toBe(0);
    expect(run('export', 'camera', 'demo/shots/sg050.json', '--reading', 'The dolly', '--out', usda).status).toBe(0);
    expect(readFileSync(usda, 'utf8')).toContain('def Xform "The_dolly"');
  });

  test.each([
    [['read', 'camera'], 2, /takes one sequence/],
    [['read', 'camera', plate, '--focal', '24'], 2, /both, or neither/],
    [['read', 'camera', plate, '--frames', '90-120'], 1, /frame 97 is missing/],
    [['read', 'camera', plate, '--tracks', 'demo/shots/sg010.json'], 1, /does not name the columns track, frame, x and y/],
    [['read', 'camera', plate, '--frames', '1-2', '--tracks', tracks, '--hand-only'], 1, /two frames only.*three or more/],
    [['export', 'camera', 'demo/shots/sg010.json', '--out', 'x.glb'], 1, /holds no solved camera/],
    [['export', 'camera', 'demo/shots/sg050.json', '--out', 'x.fbx'], 2, /--out NAME\.glb or NAME\.usda/],
    [['export', 'lens', 'x'], 2, /export takes camera/],
  ] as const)('%j is refused with why', async (args, status, told) => {
    const { status: got, err } = await refused(...args);
    expect(got).toBe(status);
    expect(err).toMatch(told);
  });
});

import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from 'fast-png';
import type { Shot, Source } from '@/core/document/types';
import { writeBundle } from '@/engine/bundle';
import { refused, run } from './testing';
import { writeWhole } from './write-file';

const folder = mkdtempSync(join(tmpdir(), 'ostracon-cli-'));
const inFolder = (name: string): string => join(folder, name);

describe('the command line', () => {
  test("the shot file document's example is the file beside it, and renders", () => {
    const text = readFileSync('docs/shot-file.md', 'utf8');
    expect(/```json\n([\s\S]*?)```/.exec(text)![1]).toBe(readFileSync('docs/smallest.json', 'utf8'));
    const out = join(folder, 'smallest.png');
    expect(run('render', 'docs/smallest.json', '--out', out)).toMatchObject({ status: 0, err: '' });
    const png = decode(readFileSync(out));
    expect([png.width, png.height]).toEqual([960, 540]);
    // The lamp room of the light stays the brightest thing of the left half.
    const at = (x: number, y: number): number => png.data[4 * (y * 960 + x)]!;
    expect(at(258, 132)).toBeGreaterThan(at(100, 60) + 60);
  });

  test('render, inspect and convert agree', () => {
    const exr = join(folder, 'k.####.exr');
    expect(run('render', 'demo/shots/sg010.json', '--lane', 'keeper', '--frames', '3-4', '--scale', '0.5', '--out', exr).status).toBe(0);
    const report = JSON.parse(run('inspect', join(folder, 'k.0003.exr'), '--json').out)[0];
    expect(report.format).toEqual({ width: 480, height: 270, pixelAspect: 1 });
    const alpha = report.channels.find((c: { name: string }) => c.name === 'A');
    expect([alpha.type, alpha.min, alpha.max, alpha.nan]).toEqual(['half', 0, 1, 0]);
    expect(alpha.mean).toBeGreaterThan(0.15);
    expect(alpha.mean).toBeLessThan(0.35);
    expect(run('convert', exr, join(folder, 'k.####.png'), '--frames', '4').status).toBe(0);
    expect(decode(readFileSync(join(folder, 'k.0004.png'))).channels).toBe(4);
    // How a picture is written is said alike for both.
    const how = ['--float', '--to', 'acescg', '--compression', 'piz'];
    const small = ['render', 'docs/smallest.json', '--scale', '0.25', '--frames', '1'];
    expect(run(...small, '--out', join(folder, 'r.exr'), ...how).status).toBe(0);
    expect(run('convert', join(folder, 'r.exr'), join(folder, 'c.exr'), ...how).status).toBe(0);
    const written = ['r.exr', 'c.exr'].map((name) => {
      const [about] = JSON.parse(run('inspect', join(folder, name), '--json').out);
      return [about.colourSpace, about.channels[0].type, about.channels.map((c: { name: string }) => c.name)];
    });
    expect(written[0]).toEqual(['ACEScg', 'float', expect.arrayContaining(['R', 'G', 'B'])]);
    expect(written[1]).toEqual(written[0]);
  });

  test('steps lists every step with units and ranges', () => {
    const steps = JSON.parse(run('steps', '--json').out) as { type: string; params: Record<string, { unit?: string }> }[];
    expect(steps.map((s) => s.type)).toEqual(
      expect.arrayContaining(['grade', 'screenKey', 'despill', 'choke', 'blur', 'transform', 'join']),
    );
    expect(steps.find((s) => s.type === 'blur')!.params.size!.unit).toBe('px');
  });

  test.each<[string, string[], number, RegExp]>([
    ['no command', [], 2, /a command is needed/],
    ['an unknown command', ['paint'], 2, /no command "paint"/],
    ['no --out', ['render', 'demo/shots/sg010.json'], 2, /needs --out/],
    ['a missing file', ['render', 'nowhere.json', '--out', 'out/a.png'], 1, /nowhere\.json: there is no such file/],
    [
      'an unknown lane',
      ['render', 'docs/smallest.json', '--lane', 'x', '--out', join(folder, 'a.png')],
      1,
      /no lane "x"; there are "harbour"/,
    ],
    [
      'bits that a kind of file has not',
      ['render', 'docs/smallest.json', '--out', 'a.png', '--bits', '10'],
      2,
      /\.png is written with 8 or 16 bits/,
    ],
    ['a quality out of range', ['convert', 'a.png', 'b.jpg', '--quality', '0'], 2, /--quality is 1 to 100/],
    ['an unknown space', ['convert', 'a.png', 'b.exr', '--from', 'beige'], 2, /--from is one of .*ACEScg.*, not "beige"/],
    ['a range without ####', ['render', 'demo/shots/sg010.json', '--frames', '1-2', '--out', join(folder, 'a.png')], 2, /needs ####/],
  ])('%s', async (_, args, status, message) => {
    const r = await refused(...args);
    expect(r.status).toBe(status);
    expect(r.err).toMatch(message);
  });

  test('wrong files are named in one line', async () => {
    const bad = (name: string, content: string | Uint8Array): string => {
      writeFileSync(join(folder, name), content);
      return join(folder, name);
    };
    const shot = JSON.parse(readFileSync('docs/smallest.json', 'utf8'));
    shot.sources[0].path = join(process.cwd(), 'demo/media/sg010/harbour.png');
    const ring = structuredClone(shot);
    ring.lanes[0].steps.push({ id: 'ring', type: 'join', name: 'Loop', on: true, params: {}, feeds: { front: { lane: 'main' } }, mix: 1 });
    const cases: [string, RegExp][] = [
      [bad('text.json', 'not json'), /text\.json: it is not JSON/],
      [bad('ring.json', JSON.stringify(ring)), /ring\.json: lanes feed each other in a ring: .*harbour ▸ Loop/],
      [bad('bad.ostracon', 'no zip'), /bad\.ostracon: this is not a whole bundle/],
    ];
    for (const [file, message] of cases) {
      const r = await refused('render', file, '--out', join(folder, 'x.png'));
      expect([r.status, r.err.trim().split('\n').length]).toEqual([1, 1]);
      expect(r.err).toMatch(message);
    }
    const cut = bad('cut.exr', readFileSync(join(folder, 'k.0003.exr')).subarray(0, 5000));
    expect(run('inspect', cut)).toMatchObject({ status: 1, err: expect.stringMatching(/cut\.exr: the file is cut short/) });
  });

  test('readings: a point and a plane of the demo film, and clear words where something is missing', async () => {
    const mooring = 'demo/media/sg060/mooring.####.jpg';
    const point = run('read', 'point', mooring, '--at', '608,266', '--frame', '24', '--frames', '22-26', '--json');
    expect(point).toMatchObject({ status: 0, err: '' });
    const { frames } = JSON.parse(point.out) as { frames: { frame: number; x: number; confidence: number; flag: string | null }[] };
    expect(frames.map((f) => f.frame)).toEqual([22, 23, 24, 25, 26]);
    expect(frames[2]).toMatchObject({ x: 608, flag: null });
    for (const f of frames) expect(f.confidence).toBeGreaterThan(0.8);
    const region = '280,70,730,90,725,420,280,420';
    const plane = run('read', 'plane', 'demo/media/sg020/table.####.jpg', '--region', region, '--frame', '1', '--frames', '1-3', '--json');
    const maps = (JSON.parse(plane.out) as { frames: { homography: number[] }[] }).frames;
    expect(maps.map((m) => m.homography.length)).toEqual([9, 9, 9]);
    expect(maps[0]!.homography).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
    expect((await refused('read', 'point', mooring, '--frame', '24')).status).toBe(2);
    expect((await refused('read', 'point', mooring, '--at', '5', '--frame', '24')).err).toContain('--at takes 2 numbers');
    expect((await refused('read', 'point', mooring, '--at', '5,5', '--frame', '99', '--frames', '1-9')).status).toBe(2);
    const outside = await refused('read', 'point', mooring, '--at', '5000,266', '--frame', '24');
    expect([outside.status, outside.err]).toEqual([1, expect.stringContaining('whose frames are 960×540 pixels')]);
    const gone = await refused('read', 'point', mooring, '--at', '5,5', '--frame', '47', '--frames', '47-52');
    expect([gone.status, gone.err]).toEqual([1, expect.stringContaining('frame 49 is missing')]);
  });

  test('what would write over what it reads, reaches beyond the shot, or has no end, is refused at once', async () => {
    const own = join(folder, 'own.0001.png');
    copyFileSync('demo/media/sg010/harbour.png', own);
    const onto = await refused('convert', own, join(folder, 'own.####.png'), '--start', '1');
    expect([onto.status, onto.err]).toEqual([2, expect.stringContaining('is read; write to another name')]);
    expect(readFileSync(own).equals(readFileSync('demo/media/sg010/harbour.png'))).toBe(true);
    const small = ['render', 'docs/smallest.json', '--scale', '0.25', '--out', join(folder, 'b.####.png')];
    const beyond = await refused(...small, '--frames', '1-3');
    expect([beyond.status, beyond.err]).toEqual([2, expect.stringContaining('--beyond')]);
    expect(run(...small, '--frames', '2-3', '--beyond')).toMatchObject({ status: 0, err: '' });
    expect((await refused(...small, '--frames', '1-900000')).err).toContain('more than 100000 frames');
    expect((await refused(...small, '--frames', '1-99999999999')).err).toContain('beyond frame');
    const pipe = join(folder, 'pipe.png');
    execFileSync('mkfifo', [pipe]);
    expect(await refused('inspect', pipe)).toMatchObject({ status: 1, err: expect.stringContaining('it is not a file') });
  });

  test('a frame that cannot be written leaves the one that was there, whole, and nothing beside it', async () => {
    const place = mkdtempSync(join(tmpdir(), 'ostracon-write-'));
    const out = join(place, 'a.png');
    await writeWhole(out, 'good');
    mkdirSync(join(place, 'dir'));
    await expect(writeWhole(join(place, 'dir'), 'bad')).rejects.toThrow(/cannot be written.*as it was/);
    expect(readFileSync(out, 'utf8')).toBe('good');
    expect(readdirSync(place).sort()).toEqual(['a.png', 'dir']);
  });

  test('interrupted, it ends with its status, and leaves whole frames only', async () => {
    const place = mkdtempSync(join(tmpdir(), 'ostracon-stop-'));
    const child = spawn(process.execPath, [
      'scripts/run.mjs',
      'cli/main.ts',
      'render',
      'demo/shots/sg010.json',
      '--out',
      join(place, 'k.####.png'),
    ]);
    await new Promise((begun) => child.stdout.once('data', begun));
    child.kill('SIGTERM');
    const status = await new Promise((ended) => child.once('exit', ended));
    expect(status).toBe(143);
    const files = readdirSync(place);
    expect(files.filter((f) => f.endsWith('.part'))).toEqual([]);
    for (const f of files) expect(() => decode(readFileSync(join(place, f)), { checkCrc: true })).not.toThrow();
    expect(files.length).toBeLessThan(48);
  });

  test('a bundle leaves nothing in the temporary folder', async () => {
    const place = mkdtempSync(join(tmpdir(), 'ostracon-temp-'));
    const shot = JSON.parse(readFileSync('docs/smallest.json', 'utf8')) as Shot;
    const png = readFileSync('demo/media/sg010/harbour.png');
    const hash = createHash('sha256').update(png).digest('hex');
    const about = {
      format: { width: 960, height: 540, pixelAspect: 1 },
      channels: ['R', 'G', 'B'],
      container: 'PNG',
      colourSpace: 'sRGB',
      alpha: 'ignore',
    } as const;
    const source = {
      id: shot.sources[0]!.id,
      name: 'harbour',
      kind: 'still',
      missing: 'error',
      start: 1,
      ...about,
      frames: [{ frame: 1, hash, name: 'harbour.png' }],
    };
    const file = join(place, 'a.ostracon');
    const parts: Uint8Array[] = [];
    await writeBundle(
      { ...shot, sources: [source as unknown as Source] },
      async () => png,
      new WritableStream({ write: (c: Uint8Array) => void parts.push(c.slice()) }),
    );
    writeFileSync(file, Buffer.concat(parts));
    const temp = mkdtempSync(join(tmpdir(), 'ostracon-tmpdir-'));
    const r = spawnSync(process.execPath, ['scripts/run.mjs', 'cli/main.ts', 'render', file, '--out', join(place, 'a.png')], {
      encoding: 'utf8',
      env: { ...process.env, TMPDIR: temp },
    });
    expect([r.status, r.stderr]).toEqual([0, '']);
    expect(readdirSync(temp)).toEqual([]);
  });

  test('reads a lens from its chart, straightens and bends with it, and writes its map', () => {
    const read = run('read', 'lens', 'demo/media/sg070/chart.##.jpg', '--json');
    expect(read.status).toBe(0);
    const lens = JSON.parse(read.out) as {
      model: string;
      coefficients: Record<string, number>;
      rms: number;
      max: number;
      corners: { frame: number; residual: number; used: boolean }[];
    };
    expect(lens).toMatchObject({ model: 'brown', squeeze: 1, format: { width: 960, height: 540 } });
    expect(lens.coefficients.k1).toBeCloseTo(-0.236, 2);
    expect(lens.rms).toBeLessThan(0.05);
    expect(lens.corners.filter((c) => c.frame === 3 && c.used).length).toBeGreaterThan(110);
    const file = inFolder('lens.json');
    writeFileSync(file, read.out);
    expect(run('convert', 'demo/media/sg070/chart.0001.jpg', inFolder('straight.exr'), '--lens', file, '--straighten').status).toBe(0);
    const straight = run('inspect', inFolder('straight.exr'), '--json');
    // What left the frame is kept beyond it.
    expect(straight.out).toMatch(/-127/);
    expect(run('convert', inFolder('straight.exr'), inFolder('back.png'), '--lens', file, '--bend').status).toBe(0);
    expect(run('convert', '--lens', file, '--bend', '--st-map', inFolder('st.exr')).status).toBe(0);
    expect(run('inspect', inFolder('st.exr')).out).toMatch(/R +float +min -0\.13/);
  });

  test.each([
    [['read', 'lens', 'demo/media/sg040/wall.0001.jpg'], 1, /no chart was found on frame 1/],
    [['read', 'lens', 'demo/media/sg070/chart.##.jpg', '--model', 'pinhole'], 2, /--model is one of/],
    [['read', 'lens', 'demo/media/sg070/chart.##.jpg', '--mm', '24'], 2, /--mm and --sensor/],
    [['convert', 'demo/media/sg070/chart.0001.jpg', 'x.png', '--straighten'], 2, /needs --lens/],
    [['convert', 'demo/media/sg070/chart.0001.jpg', 'x.png', '--lens', 'docs/smallest.json', '--bend'], 1, /it holds no lens/],
  ] as const)('%j: %i', async (args, status, told) => {
    const r = await refused(...args);
    expect([r.status, told.test(r.err)]).toEqual([status, true]);
  });
});

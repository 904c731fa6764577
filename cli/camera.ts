import { MediaError, ShotError } from '@/core/errors';
import type { Lens } from '@/core/lens';
import { LENS_SETTINGS, parseLens } from '@/core/lens';
import type { CameraReading, LensReading, Pictures, PointReading, Reading } from '@/core/readings';
import { newPoint } from '@/core/readings';
import type { CameraView } from '@/core/space';
import { NEW_CAMERA, foundTracks, matrixOf, placingFor, sceneOf, solveInputOf, solvedCamera, viewOf } from '@/core/space';
import { nodeKernels, openShotFile, readBytes } from '@/engine/node';
import { UsageError, only, parseArguments, parseFrames, userPath } from './arguments';
import { wholeOption } from './output';
import { channelOf, decoded, matteOf, numbers, openSequence } from './read-pictures';
import { writeWhole } from './write-file';

const OPTIONS = ['lens', 'focal', 'sensor', 'tracks', 'exclude', 'frames', 'count', 'hand-only', 'json'];

const text = async (path: string): Promise<string> => new TextDecoder().decode(await readBytes(path));

/** Tracks by hand of a table: track, frame, x, y. */
function handTracks(content: string, file: string): PointReading[] {
  const [head = '', ...lines] = content.split(/\r?\n/).filter((l) => l.trim() !== '');
  const columns = head.split(',').map((c) => c.trim().toLowerCase());
  const at = ['track', 'frame', 'x', 'y'].map((c) => columns.indexOf(c));
  if (at.some((i) => i < 0)) throw new MediaError(file, 'its first line does not name the columns track, frame, x and y');
  const byTrack = new Map<string, { frame: number; x: number; y: number }[]>();
  lines.forEach((line, i) => {
    const cells = line.split(',');
    const id = cells[at[0]!]?.trim() ?? '';
    const [frame, x, y] = at.slice(1).map((k) => Number(cells[k])) as [number, number, number];
    if (id === '' || ![frame, x, y].every(Number.isFinite))
      throw new MediaError(file, `line ${i + 2} is not a track, a frame and two numbers: "${line}"`);
    byTrack.set(id, [...(byTrack.get(id) ?? []), { frame, x, y }]);
  });
  return [...byTrack].map(([id, list]) => {
    const frames = list.sort((a, b) => a.frame - b.frame).map((f) => ({ ...f, confidence: 1, error: 0 }));
    const [first, last] = [frames[0]!, frames[frames.length - 1]!];
    return {
      ...newPoint([first.x, first.y], { id, name: id, reference: first.frame, range: { first: first.frame, last: last.frame } }),
      frames,
    };
  });
}

const lensReading = (lens: Lens): LensReading => ({
  kind: 'lens',
  id: 'lens',
  name: 'lens',
  from: { lane: '' },
  channel: 'luma',
  reference: 1,
  range: { first: 1, last: 1 },
  settings: LENS_SETTINGS,
  frames: [],
  lines: [],
  solved: [{ lens, rms: 0, max: 0, rings: [] }],
});

interface Found {
  camera: CameraReading;
  view: CameraView;
  readings: readonly Reading[];
  fps: number;
}

/** A camera from a sequence: tracks found, and those by hand, then solved. */
async function cameraOf(words: readonly string[], options: ReadonlyMap<string, string>): Promise<Found> {
  const [pattern] = words;
  if (!pattern || words.length !== 1) throw new UsageError('read camera takes one sequence, named by its ####');
  const sequence = await openSequence(pattern);
  const all = [...sequence.keys()];
  const range = options.has('frames') ? parseFrames(options.get('frames')!) : { first: Math.min(...all), last: Math.max(...all) };
  for (let f = range.first; f <= range.last; f++) if (!sequence.has(f)) throw new MediaError(userPath(pattern), `frame ${f} is missing`);
  const [mm] = numbers(options, 'focal', 1) ?? [0];
  const [sensor] = numbers(options, 'sensor', 1) ?? [0];
  if (mm! > 0 !== sensor! > 0) throw new UsageError('--focal and --sensor tell the focal length together, in mm: give both, or neither');
  const lensPath = options.get('lens');
  const lensText = lensPath === undefined ? null : await text(userPath(lensPath));
  const lens = lensText === null ? null : parseLens(lensText, userPath(lensPath!));
  const assumed = lensText !== null && (JSON.parse(lensText) as { assumed?: boolean }).assumed === true;
  const hand = options.has('tracks') ? handTracks(await text(userPath(options.get('tracks')!)), userPath(options.get('tracks')!)) : [];
  const readings: Reading[] = [...hand, ...(lens ? [lensReading(lens)] : [])];
  const pictures: Pictures = { frame: async (f) => channelOf(await decoded(sequence.get(f)!), 'luma') };
  const exclude = options.get('exclude');
  if (exclude !== undefined) {
    const mattes = await openSequence(exclude);
    pictures.matte = (f) => matteOf(mattes, f, exclude);
  }
  const camera: CameraReading = {
    ...NEW_CAMERA,
    kind: 'camera',
    id: 'camera',
    name: 'Camera',
    from: { lane: '' },
    channel: 'luma',
    reference: range.first,
    range,
    settings: {
      ...NEW_CAMERA.settings,
      count: wholeOption(options, 'count', NEW_CAMERA.settings.count),
      ...(lens && { lens: 'lens' }),
      focal: mm! > 0 ? 'known' : lens && !assumed ? 'lens' : 'found',
      mm: mm!,
      sensor: sensor!,
    },
    hand: hand.map((h) => h.id),
  };
  const { width, height } = await pictures.frame(range.first);
  if (options.has('hand-only') && hand.length === 0) throw new UsageError('--hand-only needs --tracks');
  const tracks = options.has('hand-only') ? [] : await foundTracks(await nodeKernels(), range, camera.settings, pictures);
  const found: CameraReading = { ...camera, tracks };
  const made = solvedCamera(solveInputOf(found, readings, { width, height }, false));
  const { frames, ...rest } = made;
  const solved: CameraReading = { ...found, frames, solved: { ...rest, format: { width, height } }, placing: placingFor(made, found) };
  return { camera: solved, view: viewOf(solved, readings)!, readings, fps: 24 };
}

/** A camera reading of a shot or bundle, by its name. */
async function cameraOfShot(path: string, options: ReadonlyMap<string, string>): Promise<Found> {
  const { shot } = await openShotFile(userPath(path));
  const cameras = shot.readings.filter((r): r is CameraReading => r.kind === 'camera' && r.solved !== null);
  const name = options.get('reading');
  const camera = name === undefined ? cameras[0] : cameras.find((c) => c.name === name);
  if (!camera) throw new ShotError(name === undefined ? `${path} holds no solved camera` : `${path} holds no solved camera "${name}"`);
  return { camera, view: viewOf(camera, shot.readings)!, readings: shot.readings, fps: shot.frameRate };
}

/** Finds the camera of a sequence and prints it. */
export async function readCamera(args: string[]): Promise<void> {
  const { words, options } = parseArguments(args, ['json', 'hand-only']);
  only(options, OPTIONS);
  const { camera, view } = await cameraOf(words, options);
  const solved = view.solved;
  const cameras = view.frames.map((frame) => ({ frame, matrix: matrixOf(view.poseAt(frame)!), focal: view.focalAt(frame) }));
  const focals = cameras.map((c) => c.focal);
  const focal = focals.reduce((a, b) => a + b, 0) / focals.length;
  const points = solved.points.flatMap((p) => {
    const at = view.point(p.track);
    return at && p.used ? [{ id: p.track, at, error: p.error }] : [];
  });
  const tracks = solved.points.map((p) => ({ id: p.track, frames: p.count, used: p.used, error: p.error, ...(p.why && { why: p.why }) }));
  if (options.has('json')) {
    const json = { cameras, focal, centre: solved.centre, points, tracks, rms: solved.rms, kind: solved.kind, zooms: solved.zooms };
    return void process.stdout.write(`${JSON.stringify(json)}\n`);
  }
  const slides = camera.frames.flatMap((f) => (f.slide ? [f.slide[1]] : []));
  const lines = [
    `${solved.kind}${solved.zooms ? ', zooms' : ''}`,
    `frames ${camera.range.first}-${camera.range.last}, ${tracks.filter((t) => t.used).length} of ${tracks.length} tracks used`,
    `focal ${solved.zooms ? `${Math.min(...focals).toFixed(2)}-${Math.max(...focals).toFixed(2)}` : focal.toFixed(2)} px`,
    `error ${solved.rms.toFixed(3)} px`,
    ...(slides.length
      ? [`a card would slide by ${Math.sqrt(slides.reduce((s, v) => s + v * v, 0) / slides.length).toFixed(3)} px at middle distance`]
      : []),
  ];
  process.stdout.write(`${lines.join('\n')}\n`);
}

/** Writes a camera of a shot, or of a sequence, for 3D programs. */
export async function exportThing(args: string[]): Promise<void> {
  const [kind, ...rest] = args;
  if (kind !== 'camera') throw new UsageError('export takes camera, and a shot or a sequence');
  const { words, options } = parseArguments(rest, ['hand-only']);
  const shot = words.length === 1 && /\.(json|ostracon)$/i.test(words[0]!);
  only(options, shot ? ['out', 'reading'] : [...OPTIONS.filter((o) => o !== 'json'), 'fps', 'out']);
  const out = options.get('out');
  const ending = /\.(glb|usda)$/i.exec(out ?? '')?.[1]?.toLowerCase();
  if (!out || !ending) throw new UsageError('export camera needs --out NAME.glb or NAME.usda');
  const { camera, view, readings, fps } = shot ? await cameraOfShot(words[0]!, options) : await cameraOf(words, options);
  const [rate] = numbers(options, 'fps', 1) ?? [fps];
  if (!(rate! > 0)) throw new UsageError('--fps is greater than 0');
  const scene = sceneOf(camera, view, rate!, (id) => readings.find((r) => r.id === id)?.name ?? id);
  const written =
    ending === 'glb'
      ? await (await import('@/core/space/exchange/gltf')).writeGlb(scene)
      : (await import('@/core/space/exchange/usda')).writeUsda(scene);
  await writeWhole(userPath(out), written);
}

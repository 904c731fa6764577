import type { Kernels, Plane } from '@/kernels';
import { OutOfMemory } from '@/kernels';
import { strFromU8 } from 'fflate';
import type { PreparedCube } from '@/core/colour';
import { giveCube, parseCube, prepareCube } from '@/core/colour';
import type { Asset, MediaFile, MediaFrame, Shot, Source } from '@/core/document';
import { contentOf, mediaOf } from '@/core/document';
import { Cancelled, MediaError, ShotError } from '@/core/errors';
import type { Commons, Plan, PlanNode, Remark, Request, SourceNode } from '@/core/evaluate';
import { ResultCache, abandon, compute, makePlan, prepare } from '@/core/evaluate';
import type { Vec3 } from '@/core/geometry';
import { EMPTY, area, isEmpty } from '@/core/geometry';
import type { PassNote } from '@/core/passes';
import { guessPasses, roledPasses } from '@/core/passes';
import type { OutputSettings } from '@/core/formats';
import { DEFAULT_OUTPUT, channelsForSpace, outputChannels, reducePicture } from '@/core/formats';
import type { Picture, Tile } from '@/core/picture';
import type { Affine3, Model } from '@/core/render';
import { nodesAt } from '@/core/render';
import { COLOUR, formatRect, scaleFormat } from '@/core/picture';
import type { Statistics } from '@/core/statistics';
import { statisticsOf } from '@/core/statistics';
import { STEPS } from '@/core/steps';
import { decodeMedia, encodeMedia, settle } from './codecs';
import { exrHeader } from './exr-notes';
import type { Rendered } from './host';
import type { Movie } from './movies';
import { readModel } from './models';
import { Applied, readLesson } from '@/core/learn';
import { layTogether } from './pass-files';

/** Brings media from where the host keeps it. Throws MediaError where it is not there. */
export interface MediaLoader {
  /** The bytes of one of a source's files. */
  file(media: MediaFile, source: Pick<Asset, 'name' | 'kind'>): Promise<Uint8Array>;
  /** `alive` is told of each part that is read. */
  movie(source: Source, alive: () => void): Promise<Movie>;
  /** A smaller copy that was made before (see `Renderer.proxy`), if there is one. */
  proxy?(key: string): Promise<Uint8Array | undefined>;
}

const filesOfFrame = (source: Source, mediaFrame: number): string[] => {
  const media = mediaOf(source, mediaFrame);
  return media ? [media.hash, ...(media.parts ?? []).map((p) => p.hash)] : [];
};

/** To be raised whenever a decoder gives other pixels than before: smaller copies that older ones made are then made again. */
const DECODERS = 2;

/** Stands for the pixels of a smaller copy of a source's frame. */
export const proxyKey = (source: Source, mediaFrame: number, scale: number): string =>
  [`decoders ${DECODERS}`, ...filesOfFrame(source, mediaFrame), mediaFrame, source.colourSpace, source.alpha, scale].join(' ');

/** Colour tables that are kept ready, and models; those that are used are kept in any case. */
const MOST_TABLES = 8;
const MOST_LESSONS = 4;
const MOST_MODELS = 6;
const MODEL_BYTES = 256 * 2 ** 20;

export interface Job {
  /** Asked again and again while it is worked on: whether it was given up. Being asked is a sign of life. */
  cancelled?(): boolean;
  /** Told what is done now. */
  enter?(phase: 'reading' | 'computing' | 'writing'): void;
  progress?(done: number, of: number, index: number, node: PlanNode): void;
  /** What the other workers of the same frame need whole, too. */
  readonly commons?: Commons;
  /** For measuring; see ComputeHost. */
  readonly tile?: number;
  readonly fuse?: boolean;
}

/** A model for looking at. */
export interface ModelShape {
  readonly box: readonly [Vec3, Vec3];
  readonly pieces: readonly {
    readonly positions: Float32Array;
    readonly normals: Float32Array;
    readonly indices: Uint32Array;
    readonly matrix: Affine3;
    readonly colour: Vec3;
  }[];
}

/** Plan, gather, compute: the same object in a browser's worker and on the command line. */
export class Renderer {
  /** Decoded sources and results of stages. */
  readonly cache: ResultCache;
  private readonly tables = new Map<string, PreparedCube>();
  private readonly models = new Map<string, Model>();
  private readonly lessons = new Map<string, Applied>();

  constructor(
    readonly kernels: Kernels,
    private readonly load: MediaLoader,
    budget = 512 * 2 ** 20,
  ) {
    this.cache = new ResultCache(kernels, budget);
    kernels.relieve = () => this.cache.dropOldest();
  }

  /** The picture for looking, its pixels in `into` where that is given. Throws ShotError, MediaError or Cancelled. */
  async render(shot: Shot, request: Request, job: Job = {}, into?: Float32Array): Promise<Rendered> {
    const started = performance.now();
    const plan = makePlan(shot, request, STEPS);
    const remarks: Remark[] = [];
    const tile = await this.tile(plan, job, remarks);
    const pixels = into ?? new Float32Array(4 * area(plan.region));
    this.interleave(
      plan.channels.map((c) => tile.planes[c]!),
      pixels,
    );
    Object.values(tile.planes).forEach((p) => this.kernels.give(p));
    return { ...describe(plan), pixels, remarks: [...plan.remarks, ...remarks], milliseconds: performance.now() - started };
  }

  /** Up to four planes to RGBA, a block at a time so that little more memory is needed. */
  private interleave(planes: readonly Plane[], to: Float32Array): void {
    const n = planes[0]!.length;
    const block = Math.min(n, 65536);
    const out = this.kernels.take(4 * block + 12);
    const [r, g = r, b = g, a = r] = planes.map((p) => p.byteOffset);
    for (let from = 0; from < n; from += block) {
      const count = Math.min(block, n - from);
      this.kernels.fn.interleave4(r! + 4 * from, g! + 4 * from, b! + 4 * from, a! + 4 * from, out.byteOffset, count);
      to.set(out.subarray(0, 4 * count), 4 * from);
    }
    this.kernels.give(out);
  }

  /** A frame of a lane in the shot's format as a file's bytes. */
  async encode(shot: Shot, lane: string, frame: number, scale: number, settings: OutputSettings, job: Job = {}): Promise<Uint8Array> {
    const format = scaleFormat(shot.format, scale);
    const point = { tap: { lane }, frame, scale, region: formatRect(format) };
    const info = makePlan(shot, { ...point, channels: ['A'] }, STEPS).root.info;
    const channels = outputChannels(settings, info.channels);
    if (channels.length === 0) throw new ShotError('no channel is left to write: choose at least one layer');
    const plan = makePlan(shot, { ...point, channels }, STEPS);
    const tile = await this.tile(plan, job);
    try {
      const header = settings.container === 'exr' ? exrHeader(shot, lane, frame, plan, settings) : {};
      job.enter?.('writing');
      return await encodeMedia(tile, format, { ...settings, ...header }, this.kernels, () => giveUp(job));
    } finally {
      Object.values(tile.planes).forEach((p) => this.kernels.give(p));
    }
  }

  /** Works a plan out; the tile's planes are the caller's to give back and may not be changed. */
  async tile(plan: Plan, job: Job = {}, remarks: Remark[] = []): Promise<Tile> {
    try {
      return await this.attempt(plan, job, remarks);
    } catch (e) {
      if (!(e instanceof OutOfMemory)) throw e;
      // What is kept for later gives way to what is wanted now.
      this.cache.shrink(0);
      return this.attempt(plan, job, remarks).catch((again: unknown) => {
        throw again instanceof OutOfMemory ? new ShotError(`${again.message}: work at ½ size, or on a smaller format`) : again;
      });
    }
  }

  private async attempt(plan: Plan, job: Job, remarks: Remark[]): Promise<Tile> {
    const work = prepare(plan, this.kernels, this.cache, job.fuse);
    const pictures = new Map<SourceNode, Tile>();
    try {
      job.enter?.('reading');
      await this.loadAssets(plan);
      let sources = work.stages.flatMap(({ root }) => (root.kind === 'source' && root.mediaFrame !== null ? [root] : []));
      while (sources.length > 0) {
        const others: SourceNode[] = [];
        for (const source of sources) {
          giveUp(job);
          const tile = isEmpty(source.region) ? { region: EMPTY, planes: {} } : await this.shared(source, job);
          if (tile) pictures.set(source, tile);
          else others.push(source);
        }
        // Another worker reads them.
        if (others.length > 0) await new Promise((next) => setTimeout(next));
        sources = others;
      }
      job.enter?.('computing');
    } catch (e) {
      abandon(work, this.kernels);
      pictures.forEach((t) => this.give(t));
      throw e;
    }
    try {
      return compute(work, {
        kernels: this.kernels,
        cache: this.cache,
        picture: (node) => pictures.get(node)!,
        table: (source) => this.tables.get(contentOf(source))!,
        model: (source) => this.models.get(contentOf(source))!,
        lesson: (source) => this.lessons.get(contentOf(source))!,
        missing: (node, pixels) => {
          const message = `${pixels} values that it reads are NaN or infinite; their neighbours stand in for them`;
          remarks.push({ lane: node.lane.id, step: node.step.id, message });
        },
        ...job,
      });
    } finally {
      pictures.forEach((t) => this.give(t));
    }
  }

  /** Makes ready what the plan's steps look up; of more tables than are kept, those it does not name go first. */
  private async loadAssets({ nodes }: Plan): Promise<void> {
    const named = new Map(
      nodes.flatMap((node) => (node.kind === 'step' ? [...node.assets.values()].map((s) => [contentOf(s), s] as const) : [])),
    );
    for (const [key, source] of named) {
      if (this.tables.has(key) || this.models.has(key) || this.lessons.has(key)) continue;
      const media = fileOf(source, 1);
      const bytes = await this.load.file(media, source);
      if (source.kind === 'weights') {
        this.lessons.set(key, new Applied(this.kernels, readLesson(bytes, media.name).learnt));
        continue;
      }
      if (source.kind === 'model') {
        this.models.set(key, await readModel(bytes, media.name, this.kernels));
        continue;
      }
      this.tables.set(key, prepareCube(parseCube(strFromU8(bytes), media.name), this.kernels));
    }
    for (const [key, table] of this.tables) {
      if (this.tables.size <= MOST_TABLES) break;
      if (named.has(key)) continue;
      giveCube(table, this.kernels);
      this.tables.delete(key);
    }
    for (const [key, lesson] of this.lessons) {
      if (this.lessons.size <= MOST_LESSONS) break;
      if (named.has(key)) continue;
      lesson.dispose();
      this.lessons.delete(key);
    }
    let bytes = [...this.models.values()].reduce((sum, m) => sum + m.bytes, 0);
    for (const [key, model] of this.models) {
      if (this.models.size <= MOST_MODELS && bytes <= MODEL_BYTES) break;
      if (named.has(key)) continue;
      bytes -= model.bytes;
      this.models.delete(key);
    }
  }

  /** A source's frame at ½ or ¼, all its channels, as an OpenEXR file of half floats that is light already. */
  async proxy(source: Source, mediaFrame: number, scale: number, job: Job = {}): Promise<Uint8Array> {
    const picture = reducePicture(await this.decode(source, mediaFrame, source.channels, job), scale, this.kernels);
    try {
      giveUp(job);
      const settings = { ...DEFAULT_OUTPUT, ...(source.types && { types: source.types }) };
      const tile = { region: picture.bounds, planes: picture.planes };
      return await encodeMedia(tile, picture.format, settings, this.kernels, () => giveUp(job));
    } finally {
      Object.values(picture.planes).forEach((p) => this.kernels.give(p));
    }
  }

  /** Counts and extremes of some channels of a source's frame, as light. */
  async measure(source: Source, mediaFrame: number, channels: readonly string[], job: Job = {}): Promise<Record<string, Statistics>> {
    const { planes } = await this.decode(source, mediaFrame, channels, job);
    try {
      return Object.fromEntries(channels.flatMap((c) => (planes[c] ? [[c, statisticsOf(this.kernels, planes[c])]] : [])));
    } finally {
      Object.values(planes).forEach((p) => this.kernels.give(p));
    }
  }

  /** What a render's passes are for, by their numbers on a frame and the one after it. */
  async guessPasses(source: Source, mediaFrame: number, job: Job = {}): Promise<Record<string, PassNote>> {
    const wanted = roledPasses(source.channels)
      .filter(({ role }) => !['light', 'cryptomatte', 'id', 'uv', 'occlusion'].includes(role))
      .flatMap((p) => p.channels);
    const pictures = [await this.decode(source, mediaFrame, wanted, job)];
    try {
      const moves = roledPasses(source.channels).some((p) => p.role === 'motion') && mediaOf(source, mediaFrame + 1);
      if (moves) pictures.push(await this.decode(source, mediaFrame + 1, ['G', 'A'], job));
      giveUp(job);
      const [now, next] = pictures;
      return guessPasses({ ...now!, channels: source.channels }, next);
    } finally {
      for (const p of pictures) Object.values(p.planes).forEach((plane) => this.kernels.give(plane));
    }
  }

  /** The triangles of a model as it stands at its first moment, a piece a material: for looking at. */
  async modelShape(source: Source, job: Job = {}): Promise<ModelShape> {
    const key = contentOf(source);
    const model = this.models.get(key) ?? (await readModel(await this.load.file(fileOf(source, 1), source), source.name, this.kernels));
    giveUp(job);
    this.models.set(key, model);
    const places = nodesAt(model, 0);
    return {
      box: model.box,
      pieces: model.nodes.flatMap((n, i) =>
        n.pieces.map(({ mesh, material }) => ({
          positions: mesh.positions.slice(),
          normals: mesh.normals.slice(),
          indices: mesh.indices.slice(),
          matrix: places[i]!,
          colour: [0, 1, 2].map((c) => material.base[c]! * (material.baseMap?.mean[c] ?? 1)) as unknown as Vec3,
        })),
      ),
    };
  }

  private give(tile: Tile): void {
    Object.values(tile.planes).forEach((p) => this.kernels.give(p));
  }

  /** A source's picture, decoded by the first of the frame's workers that comes to it; null while another is at it. */
  private async shared(node: SourceNode, job: Job): Promise<Tile | null> {
    const { commons } = job;
    const claim = commons?.claim(node) ?? 'alone';
    if (claim === 'theirs') return null;
    if (claim === 'ready') {
      const tile = commons!.take(node);
      this.cache.keep(node, tile);
      return tile;
    }
    if (claim === 'alone') return this.picture(node, job);
    try {
      const tile = await this.picture(node, job);
      commons!.put(node, tile);
      return tile;
    } catch (e) {
      commons!.drop(node);
      throw e;
    }
  }

  /** Decodes a source's frame at the plan's scale and keeps it; the planes are also the caller's. */
  private async picture(node: SourceNode, job: Job): Promise<Tile> {
    const { source, mediaFrame } = node;
    // Straight colour cannot be premultiplied without its alpha, asked for or not.
    const alone = [...node.channels, ...(source.alpha === 'straight' ? ['A'] : []), ...(source.alpha === 'luma' ? COLOUR : [])];
    const wanted = channelsForSpace(alone, source.channels, source.colourSpace);
    const picture =
      (node.scale < 1 && (await this.fromProxy(node))) ||
      reducePicture(await this.decode(source, mediaFrame!, wanted, job), node.scale, this.kernels);
    const tile = { region: picture.bounds, planes: picture.planes };
    this.cache.keep(node, tile);
    return tile;
  }

  private async fromProxy({ source, mediaFrame, scale, channels }: SourceNode): Promise<Picture | undefined> {
    const bytes = await this.load.proxy?.(proxyKey(source, mediaFrame!, scale));
    return bytes && decodeMedia(bytes, `proxy of ${source.name}`, PROXY, this.kernels, [...channels].sort());
  }

  /** A source's frame as light; all its channels without `wanted`. */
  private async decode(source: Source, mediaFrame: number, wanted: Iterable<string>, job: Job): Promise<Picture> {
    if (source.kind === 'movie') {
      const movie = await this.load.movie(source, () => void job.cancelled?.());
      return settle(await movie.frame(mediaFrame), source, this.kernels);
    }
    const media = fileOf(source, mediaFrame);
    const channels = [...wanted].filter((c) => source.channels.includes(c)).sort();
    const main = await this.decodeFile(media, source, channels);
    const pictures = [{ picture: main, layer: '' }];
    try {
      for (const part of media.parts ?? []) {
        const { layer } = part;
        const own = channels.filter((c) => c.startsWith(`${layer}.`)).flatMap((c) => [c, c.slice(layer.length + 1)]);
        giveUp(job);
        // What a file does not give is left to the others.
        if (own.length > 0) pictures.push({ picture: await this.decodeFile(part, source, own, 'premultiplied'), layer });
      }
    } catch (e) {
      pictures.forEach((p) => Object.values(p.picture.planes).forEach((x) => this.kernels.give(x)));
      throw e;
    }
    return pictures.length === 1 ? main : layTogether(pictures, source.channels, this.kernels);
  }

  private async decodeFile(media: MediaFile, source: Source, channels: readonly string[], alpha = source.alpha): Promise<Picture> {
    const as = { colourSpace: source.colourSpace, alpha };
    const picture = await decodeMedia(await this.load.file(media, source), media.name, as, this.kernels, channels);
    const { width, height } = picture.format;
    if (width === source.format.width && height === source.format.height) return picture;
    Object.values(picture.planes).forEach((p) => this.kernels.give(p));
    throw new MediaError(
      media.name,
      `it is ${width}×${height}, but the other frames of "${source.name}" are ${source.format.width}×${source.format.height}`,
    );
  }
}

/** Throws Cancelled where the work was given up. */
function giveUp(job: Job): void {
  if (job.cancelled?.()) throw new Cancelled();
}

/** Proxies are light, premultiplied. */
const PROXY = { colourSpace: 'linear', alpha: 'premultiplied' } as const;

/** The file of a source's frame. Throws ShotError where it has none. */
function fileOf(source: Asset, mediaFrame: number): MediaFrame {
  const media = mediaOf(source, mediaFrame);
  if (!media) throw new ShotError(`"${source.name}" has no frame ${mediaFrame}`, { source: source.id });
  return media;
}

/** What is told of a picture besides its pixels. */
function describe({ root, region }: Plan): Pick<Rendered, 'region' | 'format' | 'bounds' | 'available'> {
  const { format, bounds, channels } = root.info;
  return { region, format, bounds, available: [...channels] };
}

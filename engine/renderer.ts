import type { Kernels, Plane } from '@/kernels';
import { OutOfMemory } from '@/kernels';
import type { Shot, Source } from '@/core/document/types';
import { Cancelled, MediaError, ShotError } from '@/core/errors';
import { abandon, compute, prepare } from '@/core/evaluate/compute';
import type { Plan, PlanNode, Remark, Request, SourceNode } from '@/core/evaluate/plan';
import { ResultCache } from '@/core/evaluate/results';
import { EMPTY, area, isEmpty } from '@/core/geometry/rect';
import { makePlan } from '@/core/evaluate/plan';
import { channelsForSpace, reducePicture } from '@/core/formats/ingest';
import type { OutputSettings } from '@/core/formats/output';
import { outputChannels, writePicture } from '@/core/formats/output';
import type { Tile } from '@/core/picture';
import { COLOUR, formatRect, scaleFormat } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { decodeMedia } from './codecs';
import type { Rendered } from './host';

/** Brings the bytes of a source's frame. Throws MediaError where it is not there. */
export type MediaLoader = (source: Source, mediaFrame: number) => Promise<{ bytes: Uint8Array; name: string }>;

export interface Job {
  cancelled?(): boolean;
  progress?(done: number, of: number, index: number, node: PlanNode): void;
  /** For measuring; see ComputeHost. */
  readonly tile?: number;
  readonly fuse?: boolean;
}

/** Plan, gather, compute: the same object in a browser's worker and on the command line. */
export class Renderer {
  /** Decoded sources and results of stages. */
  readonly cache: ResultCache;

  constructor(
    readonly kernels: Kernels,
    private readonly load: MediaLoader,
    budget = 512 * 2 ** 20,
  ) {
    this.cache = new ResultCache(kernels, budget);
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
    const tile = await this.tile(makePlan(shot, { ...point, channels }, STEPS), job);
    try {
      return writePicture(tile, format, settings, this.kernels);
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
      for (const { root } of work.stages) {
        if (job.cancelled?.()) throw new Cancelled();
        if (root.kind !== 'source' || root.mediaFrame === null) continue;
        pictures.set(root, isEmpty(root.region) ? { region: EMPTY, planes: {} } : await this.picture(root));
      }
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

  private give(tile: Tile): void {
    Object.values(tile.planes).forEach((p) => this.kernels.give(p));
  }

  /** Decodes a source's frame at the plan's scale and keeps it; the planes are also the caller's. */
  private async picture(node: SourceNode): Promise<Tile> {
    const { source, mediaFrame } = node;
    // Straight colour cannot be premultiplied without its alpha, asked for or not.
    const alone = [...node.channels, ...(source.alpha === 'straight' ? ['A'] : []), ...(source.alpha === 'luma' ? COLOUR : [])];
    const wanted = channelsForSpace(alone, source.channels, source.colourSpace);
    const { bytes, name } = await this.load(source, mediaFrame!);
    const full = await decodeMedia(bytes, name, source, this.kernels, [...wanted].filter((c) => source.channels.includes(c)).sort());
    const { width, height } = full.format;
    if (width !== source.format.width || height !== source.format.height) {
      Object.values(full.planes).forEach((p) => this.kernels.give(p));
      throw new MediaError(
        name,
        `it is ${width}×${height}, but the other frames of "${source.name}" are ${source.format.width}×${source.format.height}`,
      );
    }
    const picture = reducePicture(full, node.scale, this.kernels);
    const tile = { region: picture.bounds, planes: picture.planes };
    this.cache.keep(node, tile);
    return tile;
  }
}

/** What is told of a picture besides its pixels. */
function describe({ root, region }: Plan): Pick<Rendered, 'region' | 'format' | 'bounds' | 'available'> {
  const { format, bounds, channels } = root.info;
  return { region, format, bounds, available: [...channels] };
}

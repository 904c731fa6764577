import type { Kernels } from '@/kernels';
import type { Shot, Source } from '@/core/document/types';
import { MediaError } from '@/core/errors';
import { compute } from '@/core/evaluate/compute';
import type { Plan, Request, SourceNode } from '@/core/evaluate/plan';
import { makePlan } from '@/core/evaluate/plan';
import { reducePicture } from '@/core/formats/ingest';
import type { OutputSettings } from '@/core/formats/output';
import { outputChannels, writePicture } from '@/core/formats/output';
import type { Picture, Tile } from '@/core/picture';
import { formatRect, scaleFormat } from '@/core/picture';
import { STEPS } from '@/core/steps';
import { decodeMedia } from './codecs';
import type { Rendered } from './host';

/** Brings the bytes of a source's frame. Throws MediaError where it is not there. */
export type MediaLoader = (source: Source, mediaFrame: number) => Promise<{ bytes: Uint8Array; name: string }>;

export interface Job {
  cancelled?(): boolean;
  progress?(done: number, of: number): void;
}

/** Plan, gather, compute: the same object in a browser's worker and on the command line. */
export class Renderer {
  /** Decoded sources by node key, least recently used first. */
  private readonly decoded = new Map<string, Picture>();
  private decodedBytes = 0;
  private gathering = 0;
  private readonly loading = new Map<string, Promise<Picture>>();

  constructor(
    readonly kernels: Kernels,
    private readonly load: MediaLoader,
    private readonly budget = 512 * 2 ** 20,
  ) {}

  /** The picture for looking. Throws ShotError, MediaError or Cancelled. */
  async render(shot: Shot, request: Request, job: Job = {}): Promise<Rendered> {
    const started = performance.now();
    const plan = makePlan(shot, request, STEPS);
    const tile = await this.tile(plan, job);
    const { fn } = this.kernels;
    const planes = plan.channels.map((c) => tile.planes[c]!);
    const n = planes[0]!.length;
    const out = this.kernels.take(4 * n);
    const [r, g = r, b = g, a] = planes.map((p) => p.byteOffset);
    const alpha = a ?? r;
    fn.interleave4(r!, g!, b!, alpha!, out.byteOffset, n);
    const pixels = new Float32Array(4 * n);
    pixels.set(out);
    [out, ...Object.values(tile.planes)].forEach((p) => this.kernels.give(p));
    const { format, bounds, channels } = plan.root.info;
    return {
      region: plan.region,
      format,
      bounds,
      available: [...channels],
      pixels,
      remarks: [...plan.remarks],
      milliseconds: performance.now() - started,
    };
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

  private async tile(plan: Plan, job: Job): Promise<Tile> {
    const pictures = new Map<string, Picture>();
    this.gathering++;
    try {
      for (const node of plan.sources) if (node.mediaFrame !== null) pictures.set(node.key, await this.picture(node));
      return compute(plan, { kernels: this.kernels, picture: (key) => pictures.get(key)!, ...job });
    } finally {
      this.gathering--;
      this.evict();
    }
  }

  private async picture(node: SourceNode): Promise<Picture> {
    // A layer that was not decoded before makes it a different picture.
    // Straight colour cannot be premultiplied without its alpha, asked for or not.
    const wanted = new Set([...node.channels, ...(node.source.alpha === 'straight' ? ['A'] : [])]);
    const channels = [...wanted].filter((c) => node.source.channels.includes(c)).sort();
    const key = `${node.key}/${node.source.container === 'OpenEXR' ? channels.join(' ') : ''}`;
    const known = this.decoded.get(key);
    if (known) {
      this.decoded.delete(key);
      this.decoded.set(key, known);
      return known;
    }
    let loading = this.loading.get(key);
    if (!loading) {
      loading = this.decode(node, channels).finally(() => this.loading.delete(key));
      this.loading.set(key, loading);
      const picture = await loading;
      this.decoded.set(key, picture);
      this.decodedBytes += bytesOf(picture);
    }
    return loading;
  }

  private async decode(node: SourceNode, channels: readonly string[]): Promise<Picture> {
    const { source, mediaFrame } = node;
    const { bytes, name } = await this.load(source, mediaFrame!);
    const full = await decodeMedia(bytes, name, source, this.kernels, channels);
    const { width, height } = full.format;
    if (width !== source.format.width || height !== source.format.height) {
      Object.values(full.planes).forEach((p) => this.kernels.give(p));
      throw new MediaError(
        name,
        `it is ${width}×${height}, but the other frames of "${source.name}" are ${source.format.width}×${source.format.height}`,
      );
    }
    const scale = node.info.format.width === source.format.width ? 1 : node.info.format.width / source.format.width;
    return reducePicture(full, scale > 0.75 ? 1 : scale > 0.37 ? 0.5 : 0.25, this.kernels);
  }

  /** Drops the least recently used pictures over the budget, unless a render under way may still hold them. */
  private evict(): void {
    for (const [key, picture] of this.decoded) {
      if (this.decodedBytes <= this.budget || this.gathering > 0) return;
      this.decoded.delete(key);
      this.decodedBytes -= bytesOf(picture);
      Object.values(picture.planes).forEach((p) => this.kernels.give(p));
    }
  }
}

const bytesOf = (p: Picture): number => Object.values(p.planes).reduce((sum, plane) => sum + plane.byteLength, 0);

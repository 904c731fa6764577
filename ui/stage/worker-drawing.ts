import type { Rendered } from '@/engine';
import type { Look, OtherLook } from './look';

type Sent<T> = T | null | 'same';

/** What the drawing worker is sent: pictures and tables only where they are others than before. */
export interface DrawMessage {
  canvas?: OffscreenCanvas;
  /** Which drawing this is; the replies name it. */
  serial: number;
  width: number;
  height: number;
  scale: number;
  picture: Sent<Rendered>;
  other: Sent<Rendered>;
  behind: Sent<Rendered>;
  behindScale: number;
  lut: Sent<NonNullable<Look['lut']>>;
  look: Omit<Look, 'lut' | 'other' | 'behind'>;
  compare: Omit<OtherLook, 'rendered'> | null;
}

export interface DrawReply {
  serial: number;
  error: string | null;
  /** Whether it is with the page; before, the next drawing may begin already. */
  seen: boolean;
}

export interface StageDrawing {
  width: number;
  height: number;
  rendered: Rendered | null;
  scale: number;
  look: Look;
  /** Told when it is on the screen, or why it is not; a drawing that a newer one overtook is never told of. */
  onDone(error: string | null): void;
}

/**
 * Draws on a canvas from a worker, so that the page never waits for the drawing. While one drawing is under way only the newest
 * wish is kept.
 */
export class WorkerDrawing {
  private readonly worker = new Worker(new URL('./draw.worker.ts', import.meta.url), { type: 'module' });
  private offscreen: OffscreenCanvas | null;
  private sent: { picture: Rendered | null; other: Rendered | null; behind: Rendered | null; lut: Look['lut'] } = {
    picture: null,
    other: null,
    behind: null,
    lut: null,
  };
  private running: StageDrawing | null = null;
  private latest: StageDrawing | null = null;
  private serial = 0;
  private next: StageDrawing | null = null;

  /** Throws where the browser cannot draw in a worker. */
  constructor(canvas: HTMLCanvasElement) {
    if (!('transferControlToOffscreen' in canvas))
      throw new Error('This browser cannot draw in a worker, which the stage needs. Update it.');
    this.offscreen = canvas.transferControlToOffscreen();
    const done = ({ serial, error, seen }: DrawReply): void => {
      if (serial !== this.serial) return;
      this.running = null;
      if (this.next) this.start(this.next);
      else if (seen) this.latest?.onDone(error);
    };
    this.worker.onerror = () => done({ serial: this.serial, error: 'The stage could not be started; load the page again.', seen: true });
    this.worker.onmessage = ({ data }: MessageEvent<DrawReply>) => done(data);
  }

  draw(wish: StageDrawing): void {
    if (this.running) this.next = wish;
    else this.start(wish);
  }

  dispose(): void {
    this.worker.terminate();
  }

  private start(wish: StageDrawing): void {
    this.running = this.latest = wish;
    this.next = null;
    this.serial++;
    const { width, height, scale, rendered, look } = wish;
    const { lut, other, behind, ...rest } = look;
    const under = behind?.rendered ?? null;
    const { sent } = this;
    const message: DrawMessage = {
      serial: this.serial,
      width,
      height,
      scale,
      picture: rendered === sent.picture ? 'same' : rendered,
      other: !other || other.rendered === sent.other ? 'same' : other.rendered,
      behind: under === sent.behind ? 'same' : under,
      behindScale: behind?.scale ?? 1,
      lut: lut === sent.lut ? 'same' : lut,
      look: rest,
      compare: other && { scale: other.scale, mode: other.mode, wipe: other.wipe, gain: other.gain },
    };
    this.sent = { picture: rendered, other: other?.rendered ?? sent.other, behind: under, lut };
    const canvas = this.offscreen;
    this.offscreen = null;
    this.worker.postMessage(canvas ? { ...message, canvas } : message, canvas ? [canvas] : []);
  }
}

import type { Rendered } from '@/engine';
import type { Look } from './look';
import type { DrawMessage, DrawReply } from './worker-drawing';
import { WorkerDrawing } from './worker-drawing';

/** A worker that answers when it is told to. */
class Painter {
  static last: Painter;
  readonly got: DrawMessage[] = [];
  ended = false;
  onmessage: ((e: MessageEvent<DrawReply>) => void) | null = null;
  onerror: (() => void) | null = null;

  constructor() {
    Painter.last = this;
  }

  postMessage(message: DrawMessage): void {
    this.got.push(message);
  }

  terminate(): void {
    this.ended = true;
  }

  says(seen: boolean, error: string | null = null, serial = this.got.at(-1)!.serial): void {
    this.onmessage!(new MessageEvent('message', { data: { serial, error, seen } }));
  }

  /** Begins the next drawing, then shows this one. */
  shows(error: string | null = null): void {
    const { serial } = this.got.at(-1)!;
    this.says(false, error, serial);
    this.says(true, error, serial);
  }
}

globalThis.Worker = Painter as unknown as typeof Worker;
const canvas = { transferControlToOffscreen: () => 'offscreen' } as unknown as HTMLCanvasElement;

const picture = (name: string): Rendered => ({ name }) as unknown as Rendered;
const look = (exposure = 0): Look => ({ x: 0, y: 0, zoom: 1, exposure, lut: null, other: null, behind: null }) as unknown as Look;

function stage() {
  const drawing = new WorkerDrawing(canvas);
  const told: string[] = [];
  const draw = (rendered: Rendered, name: string, how = look()): void =>
    drawing.draw({ width: 10, height: 5, rendered, scale: 1, look: how, onDone: (error) => told.push(error ? `${name}: ${error}` : name) });
  return { drawing, told, draw, painter: Painter.last };
}

describe('drawing by a worker', () => {
  test('the canvas goes with the first drawing; a picture that is there already is not sent again', () => {
    const { draw, painter, told } = stage();
    const one = picture('one');
    draw(one, 'first');
    painter.shows();
    draw(one, 'brighter', look(1));
    painter.shows();
    expect(painter.got.map((m) => [m.canvas !== undefined, m.picture === one, m.picture === 'same'])).toEqual([
      [true, true, false],
      [false, false, true],
    ]);
    expect(painter.got.map((m) => m.look.exposure)).toEqual([0, 1]);
    expect(told).toEqual(['first', 'brighter']);
  });

  test('while one is drawn only the newest wish is kept, and only what is on the screen is told', () => {
    const { draw, painter, told } = stage();
    draw(picture('one'), 'one');
    draw(picture('two'), 'two');
    draw(picture('three'), 'three');
    expect(painter.got).toHaveLength(1);
    painter.says(false);
    expect(painter.got).toHaveLength(2);
    painter.says(true, null, painter.got[0]!.serial);
    expect(told).toEqual([]);
    painter.shows();
    expect(told).toEqual(['three']);
  });

  test('what could not be drawn is told why, and tried again when it is wished for again', () => {
    const { draw, painter, told } = stage();
    const one = picture('one');
    draw(one, 'one');
    painter.says(true, 'no memory');
    draw(one, 'one');
    painter.shows();
    expect([painter.got.length, told]).toEqual([2, ['one: no memory', 'one']]);
  });

  test('a worker that does not load says what to do; one that is given up ends', () => {
    const { drawing, draw, painter, told } = stage();
    draw(picture('one'), 'one');
    painter.onerror!();
    expect(told).toEqual(['one: The stage could not be started; load the page again.']);
    drawing.dispose();
    expect(painter.ended).toBe(true);
    expect(() => new WorkerDrawing({} as HTMLCanvasElement)).toThrow('This browser cannot draw in a worker');
  });
});

import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import fc from 'fast-check';
import { useRef } from 'react';
import { rect } from '@/core/geometry/rect';
import type { Rendered } from '@/engine/host';
import { benchOf, shotWith } from '../testing/bench';
import type { Backing, ChannelView } from '../workbench/state';
import { view } from '../workbench/state';
import { CanvasDrawing } from './canvas-drawing';
import { pinSeen, recallPin, setCompare, toggleWipe, wipeNormal } from './compare';
import { DragBox } from './DragBox';
import type { Look } from './look';
import { displayCode } from './look';
import { useWheelZoom } from './navigate';
import { placeOf } from './place';
import { useOnStage } from './on-stage';
import { WipeHandle } from './WipeHandle';

const SIZE = { width: 800, height: 500 };
const HD = { width: 1920, height: 1080 };

beforeEach(() => view.reset(1));
afterEach(cleanup);

describe('where the picture is seen', () => {
  test('fitted, it lies in the middle with room around it, whatever its shape', () => {
    fc.assert(
      fc.property(fc.integer({ min: 16, max: 8000 }), fc.integer({ min: 16, max: 8000 }), (width, height) => {
        const p = placeOf(SIZE, { width, height }, 'fit', [3, 4]);
        const [w, h] = [width * p.zoom, height * p.zoom];
        expect(w).toBeLessThanOrEqual(SIZE.width - 43);
        expect(h).toBeLessThanOrEqual(SIZE.height - 43);
        expect(Math.abs(p.x + w / 2 - SIZE.width / 2)).toBeLessThanOrEqual(0.5);
        expect(Math.abs(p.y + h / 2 - SIZE.height / 2)).toBeLessThanOrEqual(0.5);
      }),
    );
  });

  test('zoomed, the picture’s pixel in the middle of the stage is the one that is asked for', () => {
    const p = placeOf(SIZE, HD, 2, [100, -50]);
    expect([(SIZE.width / 2 - p.x) / p.zoom, (SIZE.height / 2 - p.y) / p.zoom]).toEqual([1060, 490]);
  });

  test('the wheel zooms about the pointer: what lies under it stays there', () => {
    const at = [612, 133] as const;
    const under = (): [number, number] => {
      const { zoom, centre } = view.get();
      const p = placeOf(SIZE, HD, zoom, centre);
      return [(at[0] - p.x) / p.zoom, (at[1] - p.y) / p.zoom];
    };
    function Wheel() {
      const box = useRef<HTMLDivElement>(null);
      useWheelZoom(box, placeOf(SIZE, HD, 'fit', [0, 0]), SIZE, HD);
      return <div ref={box} data-testid="box" />;
    }
    render(<Wheel />);
    const before = under();
    fireEvent.wheel(screen.getByTestId('box'), { deltaY: -600, clientX: at[0], clientY: at[1] });
    expect(view.get().zoom).toBeGreaterThan(0.8);
    under().forEach((v, i) => expect(Math.abs(v - before[i]!)).toBeLessThan(1));
  });
});

describe('how light is seen', () => {
  test('codes grow with light and end at 0 and 1, whatever the transform', () => {
    for (const transform of ['sRGB', 'Rec.709', 'soft', 'linear'] as const) {
      const codes = Array.from({ length: 200 }, (_, i) => displayCode(i / 50, transform, 1));
      codes.slice(1).forEach((c, i) => expect(c).toBeGreaterThanOrEqual(codes[i]!));
      expect(codes[0]).toBe(0);
      expect(displayCode(-3, transform, 1)).toBe(0);
      expect(displayCode(1e6, transform, 1)).toBeCloseTo(1, 3);
    }
  });

  test('mid grey is 46 % in sRGB, the soft roll-off is sRGB below 0.6, and gamma lifts the middle', () => {
    expect(displayCode(0.18, 'sRGB', 1)).toBeCloseTo(0.461, 3);
    expect(displayCode(0.5, 'soft', 1)).toBe(displayCode(0.5, 'sRGB', 1));
    expect(displayCode(0.9, 'soft', 1)).toBeLessThan(displayCode(0.9, 'sRGB', 1));
    expect(displayCode(0.18, 'sRGB', 2)).toBeCloseTo(Math.sqrt(displayCode(0.18, 'sRGB', 1)), 6);
  });
});

/** A canvas that keeps what is put on it. */
function canvasOf(width: number, height: number) {
  const pixels = new Uint8ClampedArray(4 * width * height);
  const context = {
    fillStyle: '',
    strokeStyle: '',
    fillRect: () => pixels.fill(43),
    strokeRect: () => undefined,
    createImageData: (w: number, h: number) => ({ width: w, height: h, data: new Uint8ClampedArray(4 * w * h) }),
    putImageData(image: { width: number; height: number; data: Uint8ClampedArray }, x: number, y: number) {
      for (let r = 0; r < image.height; r++) {
        pixels.set(image.data.subarray(4 * r * image.width, 4 * (r + 1) * image.width), 4 * ((y + r) * width + x));
      }
    },
  };
  const at = (x: number, y: number): number[] => [...pixels.subarray(4 * (y * width + x), 4 * (y * width + x) + 3)];
  return { canvas: { width, height, getContext: () => context } as unknown as OffscreenCanvas, at };
}

describe('drawn by the processor', () => {
  const picture = (...rgba: number[]): Rendered =>
    ({
      region: rect(0, 0, 2, 1),
      format: { width: 2, height: 1, pixelAspect: 1 },
      pixels: Float32Array.from([...rgba, 0, 0, 0, 0]),
    }) as unknown as Rendered;
  const look = (change: Partial<Look>): Look =>
    ({
      x: 2,
      y: 2,
      zoom: 4,
      exposure: 0,
      gamma: 1,
      transform: 'linear',
      lut: null,
      channel: 'colour',
      backing: 'black',
      backingColour: [0, 0, 0],
      behind: null,
      surround: 'dark',
      other: null,
      ...change,
    }) as Look;
  const drawn = (rendered: Rendered, change: Partial<Look>): ((x: number, y: number) => number[]) => {
    const { canvas, at } = canvasOf(16, 12);
    new CanvasDrawing(canvas).draw(rendered, 1, look(change));
    return at;
  };

  test('each pixel fills its square, and around it is the surround', () => {
    const at = drawn(picture(1, 0, 0, 1), {});
    expect(at(3, 3)).toEqual([255, 0, 0]);
    expect(at(5, 5)).toEqual([255, 0, 0]);
    expect(at(7, 3)).toEqual([0, 0, 0]);
    expect(at(1, 1)).toEqual([43, 43, 43]);
    expect(at(11, 3)).toEqual([43, 43, 43]);
  });

  test.each([
    ['black', 0],
    ['white', 255],
  ] as [Backing, number][])('half-covered black over %s', (backing, wanted) => {
    expect(Math.abs(drawn(picture(0, 0, 0, 0.5), { backing })(3, 3)[0]! - wanted / 2)).toBeLessThan(1.5);
  });

  test.each([
    ['R', [51, 51, 51]],
    ['G', [102, 102, 102]],
    ['A', [204, 204, 204]],
  ] as [ChannelView, number[]][])('channel %s alone is grey', (channel, wanted) => {
    drawn(picture(0.2, 0.4, 0.6, 0.8), { channel })(3, 3).forEach((v, i) => expect(Math.abs(v - wanted[i]!)).toBeLessThanOrEqual(1));
  });

  test('two stops of exposure are four times the light', () => {
    const [dark, bright] = [0, 2].map((exposure) => drawn(picture(0.2, 0.2, 0.2, 1), { exposure })(3, 3)[0]!);
    expect(Math.abs(bright! - 4 * dark!)).toBeLessThanOrEqual(3);
  });

  test('the audit tells empty, partial, solid, below and above apart; what is no number is told by stripes', () => {
    const seen = [0, 0.5, 1, -0.1, 1.2].map((a) => drawn(picture(0, 0, 0, a), { channel: 'audit' })(3, 3).join(' '));
    expect(new Set(seen).size).toBe(5);
    const at = drawn(picture(NaN, 0, 0, 1), {});
    const stripes = new Set([2, 3, 4, 5].flatMap((x) => [2, 3, 4, 5].map((y) => at(x, y).join(' '))));
    expect([...stripes].sort()).toEqual(['0 0 0', '255 0 255']);
  });
});

describe('views compared', () => {
  test('what is seen is kept as a point, and shown again', () => {
    const bench = benchOf(shotWith('blur'));
    const { shot } = bench.session.store.getState();
    const own = { lane: shot.lanes.find((l) => l.name === 'keeper')!.id };
    view.set({ seen: own });
    pinSeen(bench, 1, false);
    expect(view.get().pins[1]).toEqual({ label: 'keeper', tap: own, layer: '' });
    view.set({ seen: null });
    recallPin(1);
    expect(view.get().seen).toEqual(own);
  });

  test('a picture that was kept is flipped to and from', () => {
    const bench = benchOf(shotWith());
    act(() => useOnStage.setState({ rendered: { region: rect(0, 0, 1, 1) } as unknown as Rendered, scale: 1 }));
    pinSeen(bench, 0, true);
    expect(view.get().pins[0]!.label).toBe('harbour, kept at 1');
    recallPin(0);
    expect(view.get().compare.mode).toBe('flip');
    recallPin(0);
    expect(view.get().compare.mode).toBe('off');
  });

  test('a wipe without a pin keeps what is seen as the first, and ends when asked again', () => {
    const bench = benchOf(shotWith());
    toggleWipe(bench);
    expect(view.get().compare.mode).toBe('wipe');
    expect(view.get().pins[0]).not.toBeNull();
    toggleWipe(bench);
    expect(view.get().compare.mode).toBe('off');
  });

  test('a line at 0° parts left from right, at 90° above from below', () => {
    expect(wipeNormal(0)).toEqual([1, 0]);
    expect(wipeNormal(90)[1]).toBeCloseTo(1, 12);
  });

  test('its grip moves it, no farther than the picture, and a double-click puts it back', () => {
    const place = { x: 100, y: 50, zoom: 0.5, ...SIZE };
    setCompare({ mode: 'wipe' });
    render(<WipeHandle place={place} format={{ width: 1000, height: 600 }} />);
    const grip = screen.getByRole('button', { name: 'Move the wipe' });
    const drag = (x: number, y: number): void => {
      fireEvent.pointerDown(grip, { button: 0, clientX: 350, clientY: 200, pointerId: 1 });
      fireEvent.pointerMove(window, { clientX: x, clientY: y, pointerId: 1 });
      fireEvent.pointerUp(window, { clientX: x, clientY: y, pointerId: 1 });
    };
    drag(225, 125);
    expect([view.get().compare.x, view.get().compare.y]).toEqual([0.25, 0.25]);
    drag(5000, -400);
    expect([view.get().compare.x, view.get().compare.y]).toEqual([1, 0]);
    fireEvent.doubleClick(grip);
    expect(view.get().compare).toMatchObject({ x: 0.5, y: 0.5, angle: 0 });
  });
});

describe('boxes dragged over the picture', () => {
  test('are told in its pixels from the upper left to the lower right, whichever way they are dragged; a click has no extent', () => {
    const boxes: number[][] = [];
    render(
      <DragBox
        place={{ x: 10, y: 20, zoom: 2, ...SIZE }}
        testId="drag"
        toPicture={({ clientX, clientY }) => [(clientX - 10) / 2, (clientY - 20) / 2]}
        onBox={(b) => boxes.push(b)}
      />,
    );
    const drag = (...points: [number, number][]): void => {
      const [first, last] = [points[0]!, points.at(-1)!];
      const target = screen.getByTestId('drag');
      fireEvent.pointerDown(target, { button: 0, clientX: first[0], clientY: first[1], pointerId: 1 });
      for (const [clientX, clientY] of points.slice(1)) fireEvent.pointerMove(target, { clientX, clientY, pointerId: 1 });
      fireEvent.pointerUp(target, { clientX: last[0], clientY: last[1], pointerId: 1 });
    };
    drag([110, 120], [60, 70], [30, 40]);
    drag([50, 60], [51, 61]);
    expect(boxes).toEqual([
      [10, 10, 50, 50],
      [20, 20, 20, 20],
    ]);
  });
});

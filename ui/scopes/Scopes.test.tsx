import { act, screen, waitFor } from '@testing-library/react';
import { SRGB } from '@/core/colour';
import type { Rect } from '@/core/geometry';
import type { ScopePicture } from '@/core/scopes';
import { COLUMNS, LEVELS, SIDE, histogramOf, vectorscopeOf, waveformOf } from '@/core/scopes';
import type { Rendered } from '@/engine';
import type { ScopeAxis } from '@/engine/browser';
import { scopeWorker } from '@/engine/browser';
import { useOnStage } from '../stage/on-stage';
import { lastAlert, shotWith, showBench } from '../testing/bench';
import { view } from '../workbench/state';
import { Scopes } from './Scopes';

/** What was drawn on each canvas, by its label: the pixels that were put, and the letters. */
let drawn: Map<string, { image?: ImageData; letters: string[] }>;
let asked: { axis: ScopeAxis; box: Rect | null }[];

const getContext = HTMLCanvasElement.prototype.getContext;
const counting = scopeWorker.call;
beforeEach(() => {
  drawn = new Map();
  asked = [];
  HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement) {
    const about: { image?: ImageData; letters: string[] } = { letters: [] };
    drawn.set(this.getAttribute('aria-label')!, about);
    const nothing = (): void => undefined;
    return {
      createImageData: (width: number, height: number) => ({ width, height, data: new Uint8ClampedArray(4 * width * height) }),
      putImageData: (image: ImageData) => (about.image = image),
      fillText: (text: string) => about.letters.push(text),
      ...Object.fromEntries(['beginPath', 'moveTo', 'lineTo', 'stroke', 'fill', 'fillRect', 'strokeRect'].map((name) => [name, nothing])),
    };
  } as unknown as typeof getContext;
  // The counting itself, without a worker around it.
  const of = { light: (v: number) => v, display: (v: number) => SRGB.encode(v) };
  const noted = (axis: ScopeAxis, box: Rect | null): ((v: number) => number) => {
    asked.push({ axis, box });
    return of[axis];
  };
  const worker = {
    histogram: (p: ScopePicture, axis: ScopeAxis, box: Rect | null) => histogramOf(p, noted(axis, box), box),
    waveform: (p: ScopePicture, axis: ScopeAxis, parade: boolean, box: Rect | null) => waveformOf(p, noted(axis, box), parade, box),
    vectorscope: (p: ScopePicture, axis: ScopeAxis, box: Rect | null) => vectorscopeOf(p, noted(axis, box), box),
  };
  scopeWorker.call = (async (run: (w: typeof worker) => unknown) => run(worker)) as unknown as typeof scopeWorker.call;
  act(() => useOnStage.setState({ rendered: null, scale: 1, drawn: null }));
});
afterAll(() => {
  HTMLCanvasElement.prototype.getContext = getContext;
  scopeWorker.call = counting;
});

/** A picture of four pixels: the left half of one colour, the right half of another. */
const picture = (left: readonly number[], right: readonly number[]): Rendered =>
  ({
    pixels: Float32Array.from([left, right, left, right].flatMap((c) => [...c, 1])),
    region: { x0: 0, y0: 0, x1: 2, y1: 2 },
  }) as unknown as Rendered;
const onStage = (rendered: Rendered, scale = 1): void => act(() => useOnStage.setState({ rendered, scale }));
/** The red, green and blue of a pixel that was put, from the top left. */
const pixel = (label: string, x: number, y: number): number[] => {
  const { image } = drawn.get(label)!;
  return [...image!.data.slice(4 * (y * image!.width + x), 4 * (y * image!.width + x) + 3)];
};
const EMPTY = [22, 22, 22];

test('without a picture on the stage they say what they wait for', () => {
  const { container } = showBench(shotWith(), <Scopes />);
  expect(container.textContent).toContain('there is none yet');
  expect(asked).toEqual([]);
});

test('the parade has red, green and blue beside each other, each value at its height and in its column', async () => {
  showBench(shotWith(), <Scopes />);
  onStage(picture([1, 0, 0], [0, 0, 1]));
  await waitFor(() => expect(drawn.get('Waveform')?.image).toBeTruthy());
  const [first, last] = [0, COLUMNS / 2];
  // Red is full in the left half and nothing in the right, blue the other way round, green nothing in both.
  expect(pixel('Waveform', first, 0)).not.toEqual(EMPTY);
  expect(pixel('Waveform', last, 0)).toEqual(EMPTY);
  expect(pixel('Waveform', last, LEVELS - 1)).not.toEqual(EMPTY);
  expect(pixel('Waveform', COLUMNS + first, 0)).toEqual(EMPTY);
  expect(pixel('Waveform', 2 * COLUMNS + last, 0)).not.toEqual(EMPTY);
  const [r, g, b] = pixel('Waveform', first, 0);
  expect(r! > g! && r! > b!).toBe(true);
});

test('luma is one trace; light and codes are counted apart', async () => {
  const { user } = showBench(shotWith(), <Scopes />);
  onStage(picture([0.2, 0.2, 0.2], [0.2, 0.2, 0.2]));
  await waitFor(() => expect(drawn.get('Waveform')?.image?.width).toBe(3 * COLUMNS));
  await user.click(screen.getByRole('button', { name: 'Luma' }));
  await waitFor(() => expect(drawn.get('Waveform')?.image?.width).toBe(COLUMNS));
  // Light of 0.2 is a code of 0.485 (sRGB), and 0.2 of the height as light.
  const height = (): number => Array.from({ length: LEVELS }, (_, y) => y).find((y) => pixel('Waveform', 0, y)[0] !== 22)!;
  expect((LEVELS - 1 - height()) / LEVELS).toBeCloseTo(0.485, 1);
  await user.click(screen.getByRole('button', { name: 'Scene light' }));
  await waitFor(() => expect((LEVELS - 1 - height()) / LEVELS).toBeCloseTo(0.2, 1));
  expect(asked.at(-1)!.axis).toBe('light');
});

test('what lies outside of the range is counted for each channel, with its share, and what is no number too', async () => {
  showBench(shotWith(), <Scopes />);
  onStage(picture([-0.1, 0.5, 2], [0.5, 0.5, NaN]));
  const text = async (): Promise<string> => (await screen.findByTestId('out of range')).textContent;
  expect(await text()).toMatch(/^below 0: R 2 \(\d+\.\d %\) G 0 B 0 · above 1: R 0 G 0 B 2 \(\d+\.\d %\)/);
  expect(await text()).toMatch(/not finite: [1-9]/);
});

test('a probed box is measured alone, in the pixels of the picture that is shown, until it is let go of', async () => {
  const { user } = showBench(shotWith(), <Scopes />);
  act(() => view.set({ probe: [20, 10, 40, 30] }));
  onStage(picture([0.2, 0.2, 0.2], [0.4, 0.4, 0.4]), 0.5);
  await waitFor(() => expect(asked).toHaveLength(3));
  expect(asked.map((a) => a.box)).toEqual(Array(3).fill({ x0: 10, y0: 5, x1: 20, y1: 15 }));
  expect(screen.getByText('of the probed box')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Whole picture' }));
  expect(view.get().probe).toBeNull();
  await waitFor(() => expect(asked.slice(3).map((a) => a.box)).toEqual([null, null, null]));
  expect(screen.getByText('of the whole picture')).toBeTruthy();
});

test('grey is the middle of the vectorscope, red lies towards its mark', async () => {
  showBench(shotWith(), <Scopes />);
  onStage(picture([0.3, 0.3, 0.3], [1, 0, 0]));
  await waitFor(() => expect(drawn.get('Vectorscope')?.image).toBeTruthy());
  expect(drawn.get('Vectorscope')!.letters).toEqual(['R', 'Y', 'G', 'C', 'B', 'M']);
  const lit: [number, number][] = [];
  for (let y = 0; y < SIDE; y++) for (let x = 0; x < SIDE; x++) if (pixel('Vectorscope', x, y)[0] !== 22) lit.push([x, y]);
  expect(lit).toHaveLength(2);
  const [red, grey] = lit as [[number, number], [number, number]];
  expect([Math.abs(grey[0] - SIDE / 2) <= 1, Math.abs(grey[1] - SIDE / 2) <= 1]).toEqual([true, true]);
  expect([red[0] < SIDE / 2, red[1] < SIDE / 4]).toEqual([true, true]);
});

test('a counting that fails is told, and the scopes stay', async () => {
  scopeWorker.call = (async () => {
    throw new Error('The counting of pixels does not start');
  }) as unknown as typeof scopeWorker.call;
  showBench(shotWith(), <Scopes />);
  onStage(picture([0, 0, 0], [0, 0, 0]));
  await waitFor(() => expect(lastAlert().textContent).toContain('The counting of pixels does not start'));
  expect(screen.getByRole('region', { name: 'Scopes' })).toBeTruthy();
});

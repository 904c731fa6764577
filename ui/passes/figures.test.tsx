import { act, screen } from '@testing-library/react';
import { changeStep, setParams } from '@/core/commands/commands';
import type { Shot } from '@/core/document';
import type { Request } from '@/core/evaluate';
import type { ShotSession } from '@/store';
import { benchOf, shotWith, showBench, stepOf } from '../testing/bench';
import { view } from '../workbench/state';
import { ResidualLine } from './ResidualLine';
import { Shares } from './Shares';

let asked: { shot: Shot; request: Request }[];
/** The light of a picture by what was asked for, in red, green and blue. */
let light: (request: Request) => readonly (readonly number[])[];

beforeEach(() => {
  asked = [];
  light = () => [[0, 0, 0]];
  const { viewer } = benchOf(shotWith());
  viewer.fetch = (async (shot: Shot, request: Request) => {
    asked.push({ shot, request });
    const colours = light(request);
    const region = { x0: 10, y0: 20, x1: 10 + colours.length / 2, y1: 22 };
    return { pixels: Float32Array.from(colours.flatMap((c) => [...c, 1])), region };
  }) as unknown as typeof viewer.fetch;
});

/** A keeper that is a render: material, lamps and a depth. */
function rendered(...types: string[]): ShotSession {
  const session = shotWith(...types);
  const layers = ['diffuse', 'specular', 'light_sky', 'light_fill'];
  session.run('render', (s) => {
    const channels = ['R', 'G', 'B', 'A', 'Z', ...layers.flatMap((l) => ['R', 'G', 'B'].map((c) => `${l}.${c}`))];
    Object.assign(
      s.sources.find((x) => x.name === 'keeper')!,
      { channels },
    );
  });
  return session;
}
const at = { x: 12.7, y: 30.2 };

describe('what lights a pixel', () => {
  const show = (session: ShotSession) =>
    showBench(session, <Shares box={[at.x, at.y, at.x, at.y]} />, { selection: { kind: 'step', id: stepOf(session, 'grade').id } });
  const shares = (): (string | null)[] => screen.getAllByTestId(/^share /).map((s) => s.textContent);

  test('is told by its parts and its lamps, each of its own sum, the brightest first', async () => {
    const grey = { diffuse: 0.3, specular: 0.1, light_sky: 0.34, light_fill: 0.06 } as Record<string, number>;
    light = (r) => [Array<number>(3).fill(grey[r.channels[0]!.split('.')[0]!]!)];
    show(rendered('grade'));
    await screen.findByTestId('share diffuse');
    expect(shares()).toEqual(['diffuse75 %', 'specular25 %', 'light_sky85 %', 'light_fill15 %']);
    // One pixel was asked for of each, at full size; depth lights nothing.
    expect(asked.map((a) => a.request.region)).toEqual(Array(4).fill({ x0: 12, y0: 30, x1: 13, y1: 31 }));
    expect(asked.map((a) => a.request.channels[0]).sort()).toEqual(['diffuse.R', 'light_fill.R', 'light_sky.R', 'specular.R']);
  });

  test('green weighs as the eye weighs it, and light below nothing counts as none', async () => {
    const colours: Record<string, readonly number[]> = {
      diffuse: [0, 1, 0],
      specular: [0, -1, 1],
      light_sky: [0, 0, 0],
      light_fill: [0, 0, 0],
    };
    light = (r) => [colours[r.channels[0]!.split('.')[0]!]!];
    show(rendered('grade'));
    await screen.findByTestId('share diffuse');
    expect(shares().slice(0, 2)).toEqual(['diffuse91 %', 'specular9 %']);
    // No lamp shines: there is nothing to share.
    expect(shares().slice(2).sort()).toEqual(['light_fill–', 'light_sky–']);
  });

  test('a picture without such passes says nothing and asks for nothing', async () => {
    const session = shotWith('grade');
    show(session);
    await act(() => new Promise<void>((next) => setTimeout(next, 20)));
    expect([screen.queryByRole('status', { name: 'What lights it' }), asked]).toEqual([null, []]);
  });
});

describe('what the passes leave out of the beauty', () => {
  const text = async (): Promise<string> => (await screen.findByTestId('residual')).textContent;
  function open(parts: readonly string[]) {
    const session = rendered('rebuildBeauty');
    const { id } = stepOf(session, 'rebuildBeauty');
    act(() => session.run('parts', setParams(id, { parts: parts.map((name) => ({ id: name, name })) }, 1)));
    const Line = () => <ResidualLine step={stepOf(session, 'rebuildBeauty')} />;
    return { session, id, ...showBench(session, <Line />) };
  }

  test('is said: how much at most, where, and on average; its place is probed by a click', async () => {
    light = () => [
      [0, 0, 0],
      [0.1, 0, 0],
      [0, -0.5, 0.2],
      [0, 0, 0],
    ];
    const { user } = open(['diffuse', 'specular']);
    expect(await text()).toBe('The passes leave out 0.500 at most, at 20, 42, 0.1500 on average.');
    await user.click(screen.getByRole('button', { name: '20, 42' }));
    expect(view.get()).toMatchObject({ probing: true, probe: [20, 42, 20, 42] });
  });

  test('is nothing worth a look where all is there', async () => {
    open(['diffuse']);
    expect(await text()).toBe('The passes leave out 0.000 at most, 0.0000 on average.');
    expect(screen.queryByRole('button')).toBeNull();
  });

  test('is measured at neutral: of the parts alone, whatever is done to them or to the step', async () => {
    const { session, id } = open(['diffuse', 'specular']);
    await text();
    act(() => {
      session.run('gain', setParams(id, { 'specular.gain': 3 }, 1));
      session.run('off', changeStep(id, { on: false }));
      view.set({ frame: 9 });
    });
    await act(() => new Promise<void>((next) => setTimeout(next, 20)));
    const last = asked.at(-1)!;
    const [bare] = last.shot.lanes.flatMap((l) => l.steps);
    expect(bare).toMatchObject({ on: true, mix: 1, params: { parts: [{ id: 'diffuse' }, { id: 'specular' }], show: 'residual' } });
    expect(bare!.params).not.toHaveProperty('specular.gain');
    expect(last.request).toMatchObject({ frame: 9, scale: 0.5, tap: { after: id } });
  });

  test('without parts there is nothing to say', async () => {
    open([]);
    await act(() => new Promise<void>((next) => setTimeout(next, 20)));
    expect([screen.queryByTestId('residual'), asked]).toEqual([null, []]);
  });
});

import fc from 'fast-check';
import { readNewer, repairShot } from './repair';
import { parseShot } from './schema';

const hash = 'a'.repeat(64);
const step = (id: string, more: object = {}) => ({ id, type: 'blur', name: id, on: true, params: {}, feeds: {}, mix: 1, ...more });
const whole = () => ({
  schema: 'ostracon/4',
  id: 'shot',
  name: 'Saltgate',
  format: { width: 64, height: 36, pixelAspect: 1 },
  frameRate: 24,
  range: { first: 1, last: 5 },
  sources: [
    {
      id: 's1',
      name: 'keeper',
      kind: 'sequence',
      frames: [1, 2, 3].map((frame) => ({ frame, hash, name: `keeper.${frame}.png` })),
      format: { width: 64, height: 36, pixelAspect: 1 },
      channels: ['R', 'G', 'B'],
      container: 'PNG',
      colourSpace: 'sRGB',
      alpha: 'ignore',
      missing: 'error',
      start: 1,
    },
  ],
  lanes: [
    { id: 'matte', name: 'matte', start: { source: 's1' }, steps: [step('choke', { type: 'choke' })], muted: false, collapsed: false },
    {
      id: 'main',
      name: 'main',
      start: { tap: { lane: 'matte', after: '' } },
      steps: [
        step('soft', {
          mask: { lane: 'matte', channel: 'A', invert: false },
          params: { size: { link: { step: 'choke', param: 'radius' } } },
        }),
        step('join', { type: 'join', feeds: { front: { lane: 'matte' } } }),
      ],
      muted: false,
      collapsed: false,
    },
  ],
  result: 'main',
  readings: [],
  notes: [{ id: 'n1', frame: 2, text: 'look at the cape', colour: 'clay' }],
});
type Doc = ReturnType<typeof whole>;
const spoilt = (change: (d: Doc) => void): unknown => {
  const doc = whole();
  change(doc);
  return doc;
};

describe('a damaged shot is repaired', () => {
  test('a good one is left as it is', () => expect(repairShot(whole())).toEqual({ shot: whole(), done: [] }));

  test.each<[string, (d: Doc) => void, RegExp, (d: Doc) => unknown, unknown]>([
    ['a name that is too long is cut', (d) => (d.name = 'x'.repeat(300)), /name/, (d) => d.name.length, 200],
    [
      'a file name that is too long is cut',
      (d) => (d.sources[0]!.frames[1]!.name = 'f'.repeat(2000)),
      /keeper/,
      (d) => d.sources[0]!.frames[1]!.name.length,
      1024,
    ],
    [
      'a frame without a hash goes',
      (d) => (d.sources[0]!.frames[1]!.hash = 'no'),
      /hash/,
      (d) => d.sources[0]!.frames.map((f) => f.frame),
      [1, 3],
    ],
    [
      'a wrong parameter goes back to its default',
      (d) => (d.lanes[1]!.steps[0]!.params = { size: null }),
      /"soft" of the lane "main"/,
      (d) => d.lanes[1]!.steps[0]!.params,
      {},
    ],
    ['a wrong mix is 1', (d) => Object.assign(d.lanes[1]!.steps[0]!, { mix: { a: 1 } }), /mix/, (d) => d.lanes[1]!.steps[0]!.mix, 1],
    [
      'a step without an id goes',
      (d) => Object.assign(d.lanes[1]!.steps[0]!, { id: 5 }),
      /id/,
      (d) => d.lanes[1]!.steps.map((s) => s.id),
      ['join'],
    ],
    ['a format that is too wide becomes the usual one', (d) => (d.format.width = 99999), /width/, (d) => d.format.width, 1920],
    ['a range that is too long becomes the usual one', (d) => (d.range.last = 900_000), /range/, (d) => d.range.last, 48],
    [
      'a mask of a lane that is not there is cut',
      (d) => Object.assign(d.lanes[1]!.steps[0]!, { mask: { lane: 'gone', channel: 'A', invert: false } }),
      /mask of main ▸ soft/,
      (d) => 'mask' in d.lanes[1]!.steps[0]!,
      false,
    ],
    [
      'a lane without its source goes, and what it fed is cut',
      (d) => (d.lanes[0]!.start = { source: 'gone' }),
      /"matte" starts from nothing/,
      (d) => d.lanes.length,
      0,
    ],
    [
      'of two things with one id the first stays',
      (d) => (d.lanes[1]!.id = 'matte'),
      /id of another/,
      (d) => d.lanes.map((l) => l.name),
      ['matte'],
    ],
    [
      'a ring is cut',
      (d) => Object.assign(d.lanes[0]!.steps[0]!, { mask: { lane: 'main', channel: 'A', invert: false } }),
      /ring/,
      (d) => d.lanes.length,
      2,
    ],
    [
      'a note with a wrong colour stays without it',
      (d) => (d.notes[0]!.colour = 'puce'),
      /colour/,
      (d) => d.notes,
      [{ id: 'n1', frame: 2, text: 'look at the cape' }],
    ],
  ])('%s', (_, change, told, look, expected) => {
    const broken = spoilt(change);
    expect(() => parseShot(JSON.parse(JSON.stringify(broken)))).toThrow();
    const { shot, done } = repairShot(broken);
    expect(done.join('\n')).toMatch(told);
    expect(look(shot as unknown as Doc)).toEqual(expected);
  });

  test('links that follow each other are cut', () => {
    const doc = spoilt((d) => {
      d.lanes[0]!.steps[0]!.params = { radius: { link: { step: 'soft', param: 'size' } } } as object;
    });
    expect(() => parseShot(doc)).toThrow('ring');
    expect(repairShot(doc).done.join()).toMatch('followed itself');
  });

  test.each([[null], [3], [[]], [{}], [{ schema: 'ostracon/4' }], [{ lanes: [], schema: 'ostracon/9' }]])('%j is no shot', (v) => {
    expect(() => repairShot(v)).toThrow(/not a shot|later version/);
  });

  test('whatever is put anywhere, what comes out can be opened', () => {
    const walk = (v: unknown, path: (string | number)[], found: (string | number)[][]): void => {
      if (typeof v !== 'object' || v === null) return;
      for (const k of Object.keys(v)) {
        found.push([...path, k]);
        walk((v as Record<string, unknown>)[k], [...path, k], found);
      }
    };
    const paths: (string | number)[][] = [];
    walk(whole(), [], paths);
    const wrong = fc.oneof(
      fc.constantFrom<unknown>(
        null,
        -1,
        1e9,
        0.5,
        NaN,
        Infinity,
        '',
        'x'.repeat(5000),
        [],
        {},
        [null],
        true,
        { link: {} },
        { keys: [{}] },
        undefined,
      ),
      fc.jsonValue({ maxDepth: 2 }),
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom(...paths), wrong), { minLength: 1, maxLength: 4 }), (changes) => {
        const doc = whole() as unknown as Record<string, unknown>;
        for (const [path, value] of changes) {
          let at: Record<string, unknown> | undefined = doc;
          for (const k of path.slice(0, -1)) at = typeof at?.[k] === 'object' ? (at[k] as Record<string, unknown>) : undefined;
          // A copy: a later change may go into it.
          if (at) at[path.at(-1)!] = structuredClone(value);
        }
        let repaired;
        try {
          repaired = repairShot(doc);
        } catch (e) {
          expect((e as Error).message).toMatch(/not a shot|later version/);
          return;
        }
        expect(() => parseShot(JSON.parse(JSON.stringify(repaired.shot)))).not.toThrow();
      }),
      { numRuns: 600 },
    );
  });
});

describe('a shot that a later version wrote', () => {
  test('is shown with what is known of it, and says what is left out', () => {
    const later = spoilt((d) => {
      d.schema = 'ostracon/7';
      Object.assign(d.lanes[0]!.steps[0]!.params, { wobble: 3 });
      d.lanes[1]!.steps.push(step('far', { type: 'unheardOf', params: { deep: [{ any: 'thing' }] } }) as never);
    });
    expect(() => parseShot(later)).toThrow(/written by a later version, for "ostracon\/7"/);
    const { shot, done } = readNewer(later);
    expect(parseShot(JSON.parse(JSON.stringify(shot)))).toEqual(shot);
    expect(done.join('; ')).toMatch(/later version.*wobble is no parameter/);
    expect(shot.lanes[1]!.steps.map((s) => s.type)).toEqual(['blur', 'join', 'unheardOf']);
  });
});

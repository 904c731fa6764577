import { evaluate, flat } from '../../testing/evaluate';
import { learn } from './learn';
import { testLesson } from '../../testing/lesson';

const picture = {
  width: 80,
  height: 70,
  fill: { R: (x: number) => x / 80, G: (_: number, y: number) => y / 70, B: 0.2, A: (x: number) => (x < 40 ? 1 : 0.5) },
};
const all = { channels: ['R', 'G', 'B', 'A', 'lesson.sureness', 'lesson.acts'] };

test('what has no effect with the lesson’s kind is not shown', () => {
  const idle = (lesson: string) => learn.idle!({ lesson }, [testLesson('matte'), testLesson('change')]);
  expect([idle('matte'), idle('change'), idle('')]).toEqual([['acts'], ['output', 'within'], []]);
});

test('without a lesson, or with one that has learnt nothing, the picture is passed on and that is said', async () => {
  const { planes, plan } = await evaluate({ main: picture }, [{ type: 'learn' }]);
  expect(planes.A![0]).toBe(1);
  expect(plan.remarks[0]?.message).toMatch(/learnt nothing/);
  const empty = { ...testLesson('matte'), id: 'empty', weights: null };
  const other = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'empty' } }], { readings: [empty] });
  expect(other.plan.remarks[0]?.message).toMatch(/learnt nothing/);
});

test('a matte is the alpha; colour is left as it is, or multiplied by it', async () => {
  const kept = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'matte' } }], all);
  expect(kept.at('R', 60, 30)).toBeCloseTo(60 / 80, 6);
  const a = kept.at('A', 60, 30);
  expect(a).toBeGreaterThan(0);
  expect(a).toBeLessThan(1);
  // Brighter is more, by the table that the lesson starts from.
  expect(kept.at('A', 75, 65)).toBeGreaterThan(kept.at('A', 5, 5));
  const multiplied = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'matte', output: 'multiply' } }], all);
  expect(multiplied.at('R', 60, 30)).toBeCloseTo((60 / 80) * a, 5);
  const within = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'matte', within: true } }], all);
  expect(within.at('A', 60, 30)).toBeCloseTo(0.5 * a, 5);
});

test('sureness lies between 0 and 1, and is there only where it was asked for', async () => {
  const { planes, plan } = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'matte', sureness: true } }], all);
  expect(plan.root.info.channels).toContain('lesson.sureness');
  expect(planes['lesson.sureness']!.every((v) => v >= 0 && v <= 1)).toBe(true);
  const without = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'matte' } }]);
  expect(without.plan.root.info.channels).not.toContain('lesson.sureness');
});

test('a change leaves alpha alone and tells where it acts; mix 0 is the picture as it was', async () => {
  const { at } = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'change', acts: true } }], all);
  expect(at('A', 60, 30)).toBe(0.5);
  expect(at('lesson.acts', 75, 65)).toBeGreaterThan(at('lesson.acts', 2, 2));
  const none = await evaluate({ main: picture }, [{ type: 'learn', params: { lesson: 'change' }, mix: 0 }], all);
  expect(none.at('R', 60, 30)).toBeCloseTo(60 / 80, 6);
});

test('pictures smaller than the net’s cells are learnt on too', async () => {
  const { planes } = await evaluate({ main: flat(9, 5, 0.4) }, [{ type: 'learn', params: { lesson: 'matte' } }]);
  expect(planes.A!.every((v) => v > 0 && v < 1)).toBe(true);
});

test('at a quarter of the size it is looked at twice as large: flat stays flat, and what is not changed is as it was', async () => {
  const small = { ...all, scale: 0.25 };
  const matte = await evaluate({ main: flat(80, 64, 0.3) }, [{ type: 'learn', params: { lesson: 'matte' } }], small);
  const whole = await evaluate({ main: flat(80, 64, 0.3) }, [{ type: 'learn', params: { lesson: 'matte' } }], all);
  expect(matte.at('A', 10, 8)).toBeCloseTo(whole.at('A', 40, 32), 1);
  const change = [{ type: 'learn', params: { lesson: 'change' } }];
  const [low, high] = [
    await evaluate({ main: flat(80, 64, 0.3) }, change, small),
    await evaluate({ main: flat(80, 64, 0.3) }, change, all),
  ];
  expect(low.at('R', 10, 8)).toBeCloseTo(high.at('R', 40, 32), 1);
});

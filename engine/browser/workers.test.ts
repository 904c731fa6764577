import { MessageChannel } from 'node:worker_threads';
import { FrameBuffers } from './frame-buffers';
import { onceMade } from './kernels';
import { LoneWorker } from './lone-worker';
import { answer, serve, valueOf } from './protocol';
import { Cancelled, MediaError, ShotError } from '@/core/errors';
import { OutOfMemory } from '@/kernels';

interface Api {
  add(a: number, b: number): number;
  hang(): Promise<never>;
  fail(): Promise<never>;
}

const open: { close(): void }[] = [];
afterEach(() => open.splice(0).forEach((port) => port.close()));

/** A lone worker whose workers are objects in this process. */
function lone(starts = true, thrown: Error = new Error()) {
  const made: { fail(): void; terminated: boolean }[] = [];
  const worker = new LoneWorker<Api>('The adding', () => {
    const { port1, port2 } = new MessageChannel();
    open.push(port1);
    if (starts)
      serve(
        { add: (a: number, b: number) => a + b, hang: () => new Promise(() => undefined), fail: () => Promise.reject(thrown) },
        port2 as never,
      );
    const stands = Object.assign(port1, {
      onerror: null as ((e: { message: string }) => void) | null,
      terminate: () => (about.terminated = true),
    });
    const about = { fail: () => stands.onerror?.({ message: '' }), terminated: false };
    made.push(about);
    return stands as unknown as Worker;
  });
  return { worker, made };
}

describe('a worker for one kind of work', () => {
  test('that dies fails what waits for it, and another takes its place', async () => {
    const { worker, made } = lone();
    expect(await worker.call((w) => w.add(1, 2))).toBe(3);
    const waits = worker.call((w) => w.hang());
    await new Promise((done) => setTimeout(done));
    made[0]!.fail();
    await expect(waits).rejects.toThrow(/The adding stopped/);
    expect(await worker.call((w) => w.add(2, 2))).toBe(4);
    expect(made).toHaveLength(2);
  });

  test('work that is given up ends at once, and its worker with it', async () => {
    const { worker, made } = lone();
    const stop = new AbortController();
    const waits = worker.call((w) => w.hang(), stop.signal);
    await new Promise((done) => setTimeout(done));
    stop.abort();
    await expect(waits).rejects.toThrow('cancelled');
    expect(made[0]!.terminated).toBe(true);
    expect(await worker.call((w) => w.add(1, 1))).toBe(2);
  });

  test('that never starts is tried three times, and then said to need a reload', async () => {
    const { worker, made } = lone(false);
    for (let i = 0; i < 3; i++) {
      const waits = worker.call((w) => w.add(1, 1));
      while (made.length <= i) await new Promise((done) => setTimeout(done, 10));
      made[i]!.fail();
      await expect(waits).rejects.toThrow(i < 2 ? 'stopped' : 'cannot be started');
    }
    await expect(worker.call((w) => w.add(1, 1))).rejects.toThrow('Load the page again');
    expect(made).toHaveLength(3);
  });
});

test('what could not be made is made at the next wish', async () => {
  let tries = 0;
  const made = onceMade(async () => {
    if (++tries === 1) throw new Error('404');
    return tries;
  });
  await expect(made()).rejects.toThrow('404');
  expect([await made(), await made()]).toEqual([2, 2]);
});

describe.each([
  [
    'a task of the pool',
    async (e: Error): Promise<unknown> => {
      const crossed = structuredClone(await answer(() => Promise.reject(e)));
      return valueOf(crossed);
    },
  ],
  ['a call of a lone worker', (e: Error): Promise<unknown> => lone(true, e).worker.call((w) => w.fail())],
])('errors of %s', (_, call) => {
  const thrown = (e: Error): Promise<unknown> =>
    call(e).then(
      () => null,
      (back: unknown) => back,
    );

  test('come back as what they were', async () => {
    const media = await thrown(new MediaError('a: b.exr', 'it is: odd'));
    expect(media).toBeInstanceOf(MediaError);
    expect(media).toMatchObject({ code: 'media', file: 'a: b.exr', problem: 'it is: odd' });
    const shot = await thrown(new ShotError('no', { step: 's' }));
    expect(shot).toBeInstanceOf(ShotError);
    expect(shot).toMatchObject({ code: 'shot', message: 'no', where: { step: 's' } });
    expect(await thrown(new OutOfMemory(3 * 2 ** 20))).toMatchObject({ code: 'memory', bytes: 3 * 2 ** 20 });
    expect(await thrown(new Cancelled())).toBeInstanceOf(Cancelled);
    expect(await thrown(new RangeError('far'))).toMatchObject({ name: 'Error', message: 'far' });
  });
});

describe('memory of frames', () => {
  test('goes to the next frame of its size, when its last owner has given it back', () => {
    const buffers = new FrameBuffers(2 ** 20);
    const a = buffers.take(1000);
    buffers.hold(a);
    buffers.give(a);
    expect(buffers.take(1000).buffer).not.toBe(a.buffer);
    buffers.give(a);
    const again = buffers.take(990);
    expect([again.buffer === a.buffer, again.length]).toEqual([true, 990]);
  });

  test('lent, it is never used again; over what may be spare, it goes', () => {
    const buffers = new FrameBuffers(10_000);
    const a = buffers.take(1000);
    buffers.lend(a);
    buffers.give(a);
    expect(buffers.figures).toEqual({ used: 0, spare: 0 });
    const all = Array.from({ length: 5 }, () => buffers.take(1000));
    all.forEach((b) => buffers.give(b));
    expect(buffers.figures.used).toBe(0);
    expect(buffers.figures.spare).toBeLessThanOrEqual(10_000);
    buffers.trim(0);
    expect(buffers.figures.spare).toBe(0);
  });
});

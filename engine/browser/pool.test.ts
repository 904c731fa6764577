import { expose } from 'comlink';
import { MessageChannel } from 'node:worker_threads';
import { Cancelled, plainError } from '@/core/errors';
import { flat, testShot } from '@/core/testing/evaluate';
import { WorkerPool } from './pool';
import { cut } from './pool-task';
import type { PoolSettings } from './pool';
import type { Common } from './protocol';
import { STATUS } from './protocol';

const figures = { hits: 1, misses: 2, bytes: 3, budget: 4, reserved: 5 };
const shot = testShot({ main: flat(400, 300, 0.5) }, [{ type: 'blur', params: { size: 4 } }]);
const request = { tap: { lane: 'main' }, frame: 1, channels: ['R', 'G', 'B', 'A'], scale: 1 };
const about = { format: shot.format, bounds: { x0: 0, y0: 0, x1: 400, y1: 300 }, available: [], remarks: [], milliseconds: 5 };

type Render = (
  request: { region: { y0: number; y1: number } },
  status: Int32Array,
  into: Float32Array,
  worker: number,
  common?: Common,
) => Promise<object>;

const pools: WorkerPool[] = [];
const open: { close(): void }[] = [];
afterEach(() => {
  pools.splice(0).forEach((p) => p.dispose());
  open.splice(0).forEach((port) => port.close());
});

/** A pool whose workers are objects in this process that do as the test says. */
function poolOf(render: Render, settings: Partial<PoolSettings> = {}, starts = true, about = figures) {
  const made: { terminated: boolean; fail(): void }[] = [];
  const makeWorker = (): Worker => {
    const { port1, port2 } = new MessageChannel();
    open.push(port1);
    const index = made.length;
    expose(
      {
        render: async (_shot: unknown, r: never, status: Int32Array, into: Float32Array, common?: Common) => ({
          ...(await render(r, status, into, index, common)),
          figures: about,
        }),
        setBudget: () => (starts ? Promise.resolve(about) : never),
        inspect: async (file: { name: string }, _closely: boolean, status: Int32Array) => ({
          ...(await render({ file } as never, status, new Float32Array(0), index)),
          figures: about,
        }),
      },
      port2 as never,
    );
    const worker = Object.assign(port1, {
      onerror: null as ((e: { message: string }) => void) | null,
      terminate: () => {
        made[index]!.terminated = true;
        port1.close();
      },
    });
    made.push({ terminated: false, fail: () => worker.onerror?.({ message: 'Out of memory' }) });
    return worker as unknown as Worker;
  };
  const pool = new WorkerPool({ size: 2, makeWorker, ...settings });
  pools.push(pool);
  return { pool, made };
}

const never = new Promise<object>(() => undefined);
const value = { value: about };

describe('the worker pool', () => {
  test('the frame on screen is cut into bands that meet, one a worker, in one shared picture', async () => {
    const seen: { y0: number; y1: number; worker: number }[] = [];
    const { pool } = poolOf(async ({ region }, _, into, worker) => {
      seen.push({ y0: region.y0, y1: region.y1, worker });
      into.fill(region.y0 + 1);
      return value;
    });
    const got = await pool.render(shot, request);
    expect(seen.map((s) => [s.y0, s.y1]).sort((a, b) => a[0]! - b[0]!)).toEqual([
      [0, 150],
      [150, 300],
    ]);
    expect(new Set(seen.map((s) => s.worker)).size).toBe(2);
    expect([got.pixels[0], got.pixels[4 * 400 * 150 - 1], got.pixels[4 * 400 * 150]]).toEqual([1, 1, 151]);
    expect(pool.figures()).toMatchObject({ hits: 2, misses: 4, bytes: 6 });
  });

  test('bands are given one memory for what each would make whole, begun anew, and it comes back with the frame', async () => {
    const given: Common[] = [];
    const { pool } = poolOf(async (_r, _s, _i, _w, common) => {
      if (common) given.push({ ...common, memory: common.memory.slice(0, 1) });
      // As a frame leaves it.
      common?.memory.fill(1);
      return value;
    });
    for (let i = 0; i < 2; i++) {
      const { pixels } = await pool.render(shot, request);
      expect(pool.buffers.figures.used).toBe(pixels.buffer.byteLength);
      pool.buffers.give(pixels);
    }
    expect(given).toHaveLength(4);
    expect(given[0]!.layout).toEqual(given[1]!.layout);
    expect([given[0]!.memory[0], given[2]!.memory[0]]).toEqual([0, 0]);
    // Frames that go to one worker share nothing.
    await pool.render(shot, request, undefined, 'ahead');
    expect(given).toHaveLength(4);
  });

  test('bands cover a region once', () => {
    const bands = cut({ x0: -3, y0: 7, x1: 20, y1: 30 }, 5);
    expect(bands[0]!.y0).toBe(7);
    bands.slice(1).forEach((b, i) => expect(b.y0).toBe(bands[i]!.y1));
    expect(bands[4]!.y1).toBe(30);
    expect(cut({ x0: 0, y0: 0, x1: 9, y1: 2 }, 5)).toHaveLength(2);
  });

  test('a step that never returns: its worker is replaced, the message names the step, and the next request works', async () => {
    let poisoned = true;
    const { pool, made } = poolOf(
      async (_, status) => {
        if (!poisoned) return value;
        // The plan's nodes are the source and the blur; numbers begin with 1.
        Atomics.store(status, STATUS.node, 2);
        return never;
      },
      { patience: 40 },
    );
    await expect(pool.render(shot, request, undefined, 'ahead')).rejects.toThrow(/^main ▸ blur 0 gave no sign of life for 1 s/);
    expect(made.filter((m) => m.terminated)).toHaveLength(1);
    poisoned = false;
    await expect(pool.render(shot, request)).resolves.toMatchObject({ milliseconds: 5 });
    expect(pool.size).toBe(2);
  });

  test('a worker that beats is left to work on', async () => {
    const { pool, made } = poolOf(
      (_, status) =>
        new Promise((done) => {
          let beats = 0;
          const timer = setInterval(() => {
            Atomics.add(status, STATUS.beat, 1);
            if (++beats < 80) return;
            clearInterval(timer);
            done(value);
          }, 20);
        }),
      { patience: 1000 },
    );
    await expect(pool.render(shot, request, undefined, 'ahead')).resolves.toBeDefined();
    expect(made.every((m) => !m.terminated)).toBe(true);
  });

  test('a worker that dies fails its request, not the others, and is replaced', async () => {
    let begun = (): void => undefined;
    const started = new Promise<void>((done) => (begun = done));
    const { pool, made } = poolOf(async (_, __, ___, worker) => {
      if (worker > 0) return value;
      begun();
      return never;
    });
    const lost = pool.render(shot, request, undefined, 'export');
    const kept = pool.render(shot, request, undefined, 'export');
    await started;
    await new Promise((done) => setTimeout(done));
    made[0]!.fail();
    await expect(lost).rejects.toThrow(/stopped its worker \(Out of memory\)/);
    await expect(kept).resolves.toBeDefined();
    await expect(pool.render(shot, request)).resolves.toBeDefined();
    // One that had not answered yet is started again after a moment.
    for (let i = 0; i < 100 && made.length < 3; i++) await new Promise((done) => setTimeout(done, 20));
    expect(made).toHaveLength(3);
  });

  test('an aborted request ends at once as cancelled, and its worker is told', async () => {
    let told: Int32Array | undefined;
    const { pool } = poolOf(async (_, status) => {
      told = status;
      return never;
    });
    const controller = new AbortController();
    const got = pool.render(shot, request, controller.signal, 'ahead');
    await new Promise<void>((done) => {
      const look = setInterval(() => {
        if (!told) return;
        clearInterval(look);
        done();
      }, 1);
    });
    controller.abort();
    await expect(got).rejects.toThrow('cancelled');
    expect(Atomics.load(told!, STATUS.cancel)).toBe(1);
  });

  test('work ahead makes room for the screen and comes back after it', async () => {
    const order: string[] = [];
    const { pool } = poolOf(
      async ({ region }, status, _, __) => {
        const small = region.y1 - region.y0 < 300;
        const name = small ? 'view' : 'ahead';
        order.push(name);
        if (name === 'ahead' && order.filter((o) => o === 'ahead').length === 1) {
          while (Atomics.load(status, STATUS.cancel) === 0) await new Promise((done) => setImmediate(done));
          return { error: plainError(new Cancelled()) };
        }
        return value;
      },
      { size: 1 },
    );
    const ahead = pool.render(shot, request, undefined, 'ahead');
    await new Promise((done) => setImmediate(done));
    const view = pool.render(shot, { ...request, region: { x0: 0, y0: 0, x1: 400, y1: 200 } });
    await Promise.all([ahead, view]);
    expect(order).toEqual(['ahead', 'view', 'ahead']);
  });

  test('what cannot be stopped half-way is not cancelled to make room for the screen', async () => {
    let told = 0;
    let finish = (): void => undefined;
    const { pool } = poolOf(
      (r, status) => {
        if (!('file' in r)) return Promise.resolve(value);
        return new Promise((done) => {
          finish = () => {
            told = Atomics.load(status, STATUS.cancel);
            done({ value: { hash: 'x' } });
          };
        });
      },
      { size: 1 },
    );
    const looked = pool.inspect({ name: 'a.mov' } as File, false);
    await new Promise((done) => setTimeout(done, 5));
    const seen = pool.render(shot, request);
    finish();
    await expect(looked).resolves.toEqual({ hash: 'x' });
    await expect(seen).resolves.toBeDefined();
    expect(told).toBe(0);
  });

  test('workers that never start are tried three times, further and further apart, and then no more', async () => {
    const { pool, made } = poolOf(async () => value, { size: 1 }, false);
    const trouble = new Promise<string>((known) => (pool.onTrouble = known));
    for (let i = 0; i < 3; i++) {
      while (made.length <= i) await new Promise((done) => setTimeout(done, 20));
      made[i]!.fail();
    }
    expect(await trouble).toMatch(/cannot be started.*Load the page again/);
    await new Promise((done) => setTimeout(done, 1200));
    expect(made).toHaveLength(3);
    await expect(pool.render(shot, request)).rejects.toThrow('cannot be started');
  });

  test('a worker with too much memory is renewed when it has nothing to do', async () => {
    const { pool, made } = poolOf(async () => value, { size: 1, spare: 100, budget: 0, idle: 0 }, true, { ...figures, reserved: 5000 });
    await pool.render(shot, request);
    while (made.length < 2) await new Promise((done) => setTimeout(done, 20));
    expect(made[0]!.terminated).toBe(true);
    await expect(pool.render(shot, request)).resolves.toBeDefined();
  });

  test('the memory of a frame goes to the next one, but not while a worker may still write to it', async () => {
    let slow: (() => void) | null = null;
    const { pool } = poolOf(
      (_, __, into) =>
        new Promise((done) => {
          into.fill(7);
          slow = () => done(value);
          if (!held) done(value);
        }),
      { size: 1 },
    );
    let held = false;
    const first = await pool.render(shot, request);
    const { buffer } = first.pixels;
    pool.buffers.give(first.pixels);
    expect((await pool.render(shot, request)).pixels.buffer).toBe(buffer);
    held = true;
    const controller = new AbortController();
    const given = pool.render(shot, request, controller.signal);
    await new Promise((done) => setTimeout(done, 5));
    const before = pool.buffers.figures.spare;
    controller.abort();
    await expect(given).rejects.toThrow('cancelled');
    expect(pool.buffers.figures.spare).toBe(before);
    slow!();
    await new Promise((done) => setTimeout(done, 5));
    expect(pool.buffers.figures.spare).toBeGreaterThan(before);
  });
});

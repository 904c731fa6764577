import { execFileSync } from 'node:child_process';
import { pathToFileURL } from 'node:url';
import type { Shot } from '@/core/document';
import { DEFAULT_OUTPUT } from '@/core/formats';
import { nodeHost, openShotFile } from './host';
import { FramePool } from './workers';

const SETTINGS = { ...DEFAULT_OUTPUT, compression: 'NONE' as const };
const QUARTER = 0.25;

let pool: FramePool;
let shot: Shot;
let files: Map<string, string>;
const made = (frame: number): Promise<Uint8Array> => pool.encode(shot, shot.result!, frame, QUARTER, SETTINGS);

beforeAll(async () => {
  const entry = execFileSync(process.execPath, ['scripts/run.mjs', '--build', 'cli/main.ts'], { encoding: 'utf8' }).trim();
  ({ shot, files } = await openShotFile('demo/shots/sg060.json'));
  pool = new FramePool(pathToFileURL(entry), 2, files);
});
afterAll(() => pool.close());

describe('frames made by two workers', () => {
  test('are to the byte those of one process, whoever made them', async () => {
    const host = await nodeHost(files);
    const got = await Promise.all([3, 4, 5, 6].map(made));
    for (const [i, bytes] of got.entries()) {
      const own = await host.encode(shot, shot.result!, 3 + i, QUARTER, SETTINGS);
      expect(Buffer.compare(bytes, own)).toBe(0);
    }
  });

  test('a file that was written is gone, and the next ones in its memory are right', async () => {
    const first = await made(3);
    const kept = first.slice();
    pool.takeBack(first);
    expect(first.byteLength).toBe(0);
    // Another frame writes over all of it; the same one again is the same again.
    for (const frame of [4, 5, 3]) {
      const bytes = await made(frame);
      expect(bytes.byteLength).toBe(kept.byteLength);
      expect(Buffer.compare(bytes, kept) === 0).toBe(frame === 3);
      pool.takeBack(bytes);
    }
  });

  test('what another made is not taken back', () => {
    const other = Uint8Array.of(1, 2, 3);
    pool.takeBack(other);
    expect([...other]).toEqual([1, 2, 3]);
  });

  test('a frame that cannot be made says why, and the others come', async () => {
    const wrong = { ...shot, result: 'no such lane' };
    const [failed, fine] = await Promise.allSettled([pool.encode(wrong, wrong.result, 3, QUARTER, SETTINGS), made(3)]);
    expect(failed).toMatchObject({ status: 'rejected' });
    expect(String((failed as PromiseRejectedResult).reason)).toMatch(/lane/);
    expect(fine.status).toBe('fulfilled');
  });
});

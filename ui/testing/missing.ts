// What a browser has and a page under test lacks.
import { ReadableStream, TransformStream, WritableStream } from 'node:stream/web';
import { TextDecoder, TextEncoder } from 'node:util';

for (const [name, what] of Object.entries({ ReadableStream, TransformStream, WritableStream, TextDecoder, TextEncoder }))
  if (!(name in globalThis)) Object.assign(globalThis, { [name]: what });
globalThis.structuredClone ??= ((value: unknown) => JSON.parse(JSON.stringify(value)) as unknown) as typeof structuredClone;
globalThis.setImmediate ??= ((run: () => void) => setTimeout(run)) as unknown as typeof setImmediate;
globalThis.ResizeObserver ??= class {
  observe = (): void => undefined;
  unobserve = (): void => undefined;
  disconnect = (): void => undefined;
};
if (typeof Element !== 'undefined') Element.prototype.scrollIntoView ??= (): void => undefined;

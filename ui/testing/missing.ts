// What a browser has and a page under test lacks.
globalThis.structuredClone ??= ((value: unknown) => JSON.parse(JSON.stringify(value)) as unknown) as typeof structuredClone;
globalThis.setImmediate ??= ((run: () => void) => setTimeout(run)) as unknown as typeof setImmediate;
globalThis.ResizeObserver ??= class {
  observe = (): void => undefined;
  unobserve = (): void => undefined;
  disconnect = (): void => undefined;
};
if (typeof Element !== 'undefined') Element.prototype.scrollIntoView ??= (): void => undefined;

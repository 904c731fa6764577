// Gives a thread of tests a page before any module looks for one: the names of its window are global, as in a browser.
import { JSDOM } from 'jsdom';
import '@/store/testing/indexed-db';

const { window } = new JSDOM('<!DOCTYPE html>', { pretendToBeVisual: true, url: 'http://localhost/' });

/** What Node.js has by the same name, where a page takes only its own. */
const ITS_OWN = ['AbortController', 'AbortSignal', 'Blob', 'CustomEvent', 'Event', 'EventTarget', 'File', 'FormData', 'navigator'];
const names = Object.getOwnPropertyNames(window).filter((name) => ITS_OWN.includes(name) || !(name in globalThis));
for (const name of names) {
  const value: unknown = window[name as keyof typeof window];
  Object.defineProperty(globalThis, name, { value, configurable: true, writable: true });
}
for (const name of ['addEventListener', 'removeEventListener', 'dispatchEvent'] as const)
  Object.assign(globalThis, { [name]: window[name].bind(window) });

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

// What a browser has and this page lacks.
window.structuredClone ??= structuredClone;
globalThis.ResizeObserver ??= class {
  observe = (): void => undefined;
  unobserve = (): void => undefined;
  disconnect = (): void => undefined;
};
window.Element.prototype.scrollIntoView ??= (): void => undefined;

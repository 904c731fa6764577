import fc from 'fast-check';
import { copyOf } from './copy';

test('a copy is the same value and shares nothing that can be changed', () => {
  fc.assert(
    fc.property(fc.jsonValue(), (value) => {
      const frozen = JSON.parse(JSON.stringify(value), (_, v: unknown) => (v && typeof v === 'object' ? Object.freeze(v) : v)) as unknown;
      const copy = copyOf(frozen);
      expect(JSON.stringify(copy)).toBe(JSON.stringify(frozen));
      const apart = (a: unknown, b: unknown): void => {
        if (!a || typeof a !== 'object') return;
        expect(a).not.toBe(b);
        expect(Object.isFrozen(a)).toBe(false);
        for (const k of Object.keys(a)) apart((a as never)[k], (b as never)[k]);
      };
      apart(copy, frozen);
    }),
  );
});

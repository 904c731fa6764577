import * as yup from 'yup';
import { LIMITS } from './limits';

// Plain words for what a person may read; forms say theirs at each field.
yup.setLocale({
  mixed: {
    notType: '${path} is not what it should be (${type})',
    required: '${path} is missing',
    defined: '${path} is missing',
    notNull: '${path} is missing',
    oneOf: '${path} is none of ${values}',
  },
});

/** Fields that the schemas of a document share. */
export const finite = () =>
  yup
    .number()
    .strict()
    .test('finite', '${path} is not a number', (v) => v === undefined || Number.isFinite(v));
export const real = () => finite().required();
export const whole = () => real().integer('${path} is not a whole number');
/** The number of a frame. */
export const frame = () => whole().min(-LIMITS.frame, FRAME).max(LIMITS.frame, FRAME);
const FRAME = `\${path} is beyond frame ±${LIMITS.frame}`;
export const text = () => yup.string().strict().required();
export const id = () => text().max(LIMITS.name);
export const name = () => text().max(LIMITS.name, `\${path} is longer than ${LIMITS.name} letters`);
/** The name of a file or a channel. */
export const fileName = () => text().max(LIMITS.fileName, `\${path} is longer than ${LIMITS.fileName} letters`);
export const flag = () => yup.boolean().strict();

const passed = new WeakSet<object>();

/** Notes that a part of a document is right. Only a frozen value is noted: nobody can change it afterwards. */
export function pass(part: object): void {
  if (Object.isFrozen(part)) passed.add(part);
}

/** The schema, but parts that are noted as right are not looked through again: a change costs what it touches. */
export const once = (schema: yup.Schema | yup.Lazy<unknown>) =>
  yup.lazy((v: unknown) => (typeof v === 'object' && v !== null && passed.has(v) ? yup.mixed() : schema));

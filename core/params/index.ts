export { isStructured } from './kind';
export { kindOf, referencesOf } from './kinds';
export type { Part } from './parts';
export { feedsOf, partKey, schemaOf, strayParams } from './parts';

// Lets Node.js import TypeScript: node --import ./scripts/ts-loader.mjs.
import { register } from 'node:module';

register('./ts-hooks.mjs', import.meta.url);

import jsep from 'jsep';
import { ShotError } from '../errors';

/** What a formula may name, where numbers of a pixel stand: a channel of the picture or of the other one, its place, or the time. */
export interface Names {
  readonly [name: string]: Float32Array | number;
}

type Evaluate = (names: Names, n: number) => Float32Array | number;

export interface Formula {
  /** Channels and other things that it names. */
  readonly names: readonly string[];
  /** Its value for each of n pixels, or one for all of them. */
  evaluate: Evaluate;
}

type One = (a: number) => number;
type Two = (a: number, b: number) => number;
type Three = (a: number, b: number, c: number) => number;

// Powers bind stronger than products, and to the right.
jsep.addBinaryOp('^', 11, true);

const OPERATORS: Readonly<Record<string, Two>> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => (b === 0 ? 0 : a / b),
  '%': (a, b) => (b === 0 ? 0 : a - b * Math.floor(a / b)),
  '^': (a, b) => (a < 0 && !Number.isInteger(b) ? 0 : a ** b),
  '<': (a, b) => +(a < b),
  '>': (a, b) => +(a > b),
  '<=': (a, b) => +(a <= b),
  '>=': (a, b) => +(a >= b),
  '==': (a, b) => +(a === b),
  '!=': (a, b) => +(a !== b),
  '&&': (a, b) => +(a !== 0 && b !== 0),
  '||': (a, b) => +(a !== 0 || b !== 0),
};

const ONE: Readonly<Record<string, One>> = {
  abs: Math.abs,
  sqrt: (a) => Math.sqrt(Math.max(0, a)),
  exp: Math.exp,
  log: (a) => Math.log(Math.max(1e-30, a)),
  log2: (a) => Math.log2(Math.max(1e-30, a)),
  sin: Math.sin,
  cos: Math.cos,
  tan: Math.tan,
  atan: Math.atan,
  floor: Math.floor,
  ceil: Math.ceil,
  round: Math.round,
  sign: Math.sign,
};
const TWO: Readonly<Record<string, Two>> = {
  min: Math.min,
  max: Math.max,
  pow: OPERATORS['^']!,
  atan2: Math.atan2,
  step: (edge, x) => +(x >= edge),
};
const THREE: Readonly<Record<string, Three>> = {
  clamp: (x, low, high) => Math.min(high, Math.max(low, x)),
  mix: (a, b, t) => a + (b - a) * t,
  smoothstep: (low, high, x) => {
    const t = Math.min(1, Math.max(0, (x - low) / (high - low || 1)));
    return t * t * (3 - 2 * t);
  },
};
export const FUNCTIONS: readonly string[] = [...Object.keys(ONE), ...Object.keys(TWO), ...Object.keys(THREE)];
const CONSTANTS: Readonly<Record<string, number>> = { pi: Math.PI, e: Math.E };

/** Characters of a formula, at most. */
const LONGEST = 2000;

const compiled = new Map<string, Formula>();

/** The formula of a text, compiled once. Throws ShotError that points at the character where it is none, or where it names what is not in `known`. */
export function compileFormula(text: string, known: readonly string[]): Formula {
  const key = `${known.join(' ')}\n${text}`;
  let made = compiled.get(key);
  if (made) return made;
  if (text.length > LONGEST) throw new ShotError(`a formula has ${LONGEST} characters at most`);
  let tree: jsep.Expression;
  try {
    tree = jsep(text);
  } catch (e) {
    const { index = 0, description = 'it is not understood' } = e as { index?: number; description?: string };
    throw wrong(text, index, description.toLowerCase());
  }
  const names = new Set<string>();
  made = { evaluate: build(tree, { text, known, names }), names: [...names] };
  if (compiled.size > 200) compiled.clear();
  compiled.set(key, made);
  return made;
}

function wrong(text: string, index: number, why: string): ShotError {
  const at = Math.min(Math.max(0, index), text.length);
  return new ShotError(`formula, character ${at + 1}: ${why}, at “${text.slice(at, at + 12) || 'the end'}”`);
}

interface Place {
  text: string;
  known: readonly string[];
  names: Set<string>;
}

function build(node: jsep.Expression, at: Place): Evaluate {
  switch (node.type) {
    case 'Literal': {
      const value = Number((node as jsep.Literal).value);
      if (typeof (node as jsep.Literal).value !== 'number' || !Number.isFinite(value)) {
        throw wrong(at.text, at.text.indexOf((node as jsep.Literal).raw), 'only numbers are values here');
      }
      return () => value;
    }
    case 'Identifier':
    case 'MemberExpression':
      return named(nameOf(node, at), at);
    case 'UnaryExpression': {
      const { operator, argument } = node as jsep.UnaryExpression;
      const inner = build(argument, at);
      if (operator === '+') return inner;
      if (operator === '-') return (names, n) => each(inner(names, n), (a) => -a, n);
      if (operator === '!') return (names, n) => each(inner(names, n), (a) => +(a === 0), n);
      throw wrong(at.text, at.text.indexOf(operator), `“${operator}” is not known`);
    }
    case 'BinaryExpression':
    case 'LogicalExpression': {
      const { operator, left, right } = node as jsep.BinaryExpression;
      const f = OPERATORS[operator];
      if (!f) throw wrong(at.text, at.text.indexOf(operator), `“${operator}” is not known`);
      const [a, b] = [build(left, at), build(right, at)];
      return (names, n) => both(a(names, n), b(names, n), f, n);
    }
    case 'ConditionalExpression': {
      const { test, consequent, alternate } = node as jsep.ConditionalExpression;
      const [q, a, b] = [build(test, at), build(consequent, at), build(alternate, at)];
      return (names, n) => all(q(names, n), a(names, n), b(names, n), (t, x, y) => (t !== 0 ? x : y), n);
    }
    case 'CallExpression': {
      const { callee, arguments: given } = node as jsep.CallExpression;
      const name = callee.type === 'Identifier' ? (callee as jsep.Identifier).name : '';
      const parts = given.map((g) => build(g, at));
      const wants = Object.hasOwn(ONE, name) ? 1 : Object.hasOwn(TWO, name) ? 2 : Object.hasOwn(THREE, name) ? 3 : 0;
      if (wants === 0) throw wrong(at.text, at.text.indexOf(name), `“${name}” is no function; there are ${FUNCTIONS.join(', ')}`);
      const many = name === 'min' || name === 'max';
      if (many ? parts.length < 2 : parts.length !== wants) {
        throw wrong(at.text, at.text.indexOf(name), `“${name}” takes ${wants} value${wants > 1 ? 's' : ''}${many ? ' or more' : ''}`);
      }
      const [a, b, c] = parts as [Evaluate, Evaluate, Evaluate];
      if (wants === 1) return (names, n) => each(a(names, n), ONE[name]!, n);
      if (wants === 3) return (names, n) => all(a(names, n), b(names, n), c(names, n), THREE[name]!, n);
      return parts.slice(1).reduce<Evaluate>((left, right) => (names, n) => both(left(names, n), right(names, n), TWO[name]!, n), a);
    }
    default:
      throw wrong(at.text, 0, 'it is one value of numbers, names and functions');
  }
}

/** `R`, or `other.R` of another picture. */
function nameOf(node: jsep.Expression, at: Place): string {
  if (node.type === 'Identifier') return (node as jsep.Identifier).name;
  const { object, property, computed } = node as jsep.MemberExpression;
  if (computed) throw wrong(at.text, at.text.indexOf('['), 'names have no brackets');
  return `${nameOf(object, at)}.${nameOf(property, at)}`;
}

function named(name: string, at: Place): Evaluate {
  if (Object.hasOwn(CONSTANTS, name)) return () => CONSTANTS[name]!;
  if (!at.known.includes(name)) throw wrong(at.text, at.text.indexOf(name), `“${name}” is not known; there are ${at.known.join(', ')}`);
  at.names.add(name);
  return (names) => names[name] ?? 0;
}

type Values = Float32Array | number;

function each(a: Values, f: One, n: number): Values {
  if (typeof a === 'number') return f(a);
  const out = new Float32Array(n);
  for (let i = 0; i < n; i++) out[i] = f(a[i]!);
  return out;
}

function both(a: Values, b: Values, f: Two, n: number): Values {
  if (typeof a === 'number' && typeof b === 'number') return f(a, b);
  const out = new Float32Array(n);
  if (typeof a === 'number') for (let i = 0; i < n; i++) out[i] = f(a, (b as Float32Array)[i]!);
  else if (typeof b === 'number') for (let i = 0; i < n; i++) out[i] = f(a[i]!, b);
  else for (let i = 0; i < n; i++) out[i] = f(a[i]!, b[i]!);
  return out;
}

function all(a: Values, b: Values, c: Values, f: Three, n: number): Values {
  if (typeof a === 'number' && typeof b === 'number' && typeof c === 'number') return f(a, b, c);
  const out = new Float32Array(n);
  const at = (v: Values, i: number): number => (typeof v === 'number' ? v : v[i]!);
  for (let i = 0; i < n; i++) out[i] = f(at(a, i), at(b, i), at(c, i));
  return out;
}

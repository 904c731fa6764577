/**
 * What a person types for a number: "12", "2*3", "(1+2)/4", or a change of the value that is there: "+=1", "-=0.5", "*=2", "/=2",
 * "*2", "/2". A comma stands for a point. Returns null where it is none of these, and where it has no end (a division by 0).
 */
export function readNumber(text: string, value: number): number | null {
  const plain = text.trim().replace(/,/g, '.').replace(/[−–]/g, '-').replace(/×/g, '*').replace(/÷/g, '/');
  const relative = /^([-+*/])=?(.*)$/.exec(plain);
  const isChange = relative && (plain[1] === '=' || relative[1] === '*' || relative[1] === '/');
  const result = isChange ? apply(relative[1]!, value, sum(new Tokens(relative[2]!))) : sum(new Tokens(plain));
  return result !== null && Number.isFinite(result) ? result : null;
}

class Tokens {
  private at = 0;
  private readonly list: readonly string[];
  readonly whole: boolean;

  constructor(text: string) {
    this.list = text.match(/\d+\.?\d*(?:e[-+]?\d+)?|\.\d+(?:e[-+]?\d+)?|[-+*/()]/gi) ?? [];
    // Whatever is left over is no part of a sum.
    this.whole = this.list.join('') === text.replace(/\s+/g, '') && this.list.length > 0;
  }

  get next(): string | undefined {
    return this.list[this.at];
  }

  take(): string | undefined {
    return this.list[this.at++];
  }
}

/** The value of a whole expression. */
function sum(tokens: Tokens): number | null {
  if (!tokens.whole) return null;
  const value = terms(tokens);
  return tokens.next === undefined ? value : null;
}

function terms(tokens: Tokens): number | null {
  let value = product(tokens);
  while (value !== null && (tokens.next === '+' || tokens.next === '-')) value = apply(tokens.take()!, value, product(tokens));
  return value;
}

function product(tokens: Tokens): number | null {
  let value = factor(tokens);
  while (value !== null && (tokens.next === '*' || tokens.next === '/')) value = apply(tokens.take()!, value, factor(tokens));
  return value;
}

function factor(tokens: Tokens): number | null {
  const token = tokens.take();
  if (token === undefined) return null;
  if (token === '-' || token === '+') {
    const value = factor(tokens);
    return value === null ? null : token === '-' ? -value : value;
  }
  if (token === '(') {
    const value = terms(tokens);
    return tokens.take() === ')' ? value : null;
  }
  return /^[\d.]/.test(token) ? Number(token) : null;
}

function apply(operator: string, a: number, b: number | null): number | null {
  if (b === null) return null;
  switch (operator) {
    case '+':
      return a + b;
    case '-':
      return a - b;
    case '*':
      return a * b;
    default:
      return a / b;
  }
}

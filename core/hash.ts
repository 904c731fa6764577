/**
 * A 106-bit content key of a string, as hex: two independent 53-bit multiply–xor hashes (Murmur-style finalisers).
 * For cache keys, not for security.
 */
export function hashText(text: string): string {
  return half(text, 0x9e3779b9) + half(text, 0x85ebca6b);
}

function half(text: string, seed: number): string {
  let a = 0xdeadbeef ^ seed;
  let b = 0x41c6ce57 ^ seed;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    a = Math.imul(a ^ c, 2654435761);
    b = Math.imul(b ^ c, 1597334677);
  }
  a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909);
  b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909);
  return (4294967296 * (2097151 & b) + (a >>> 0)).toString(16).padStart(14, '0');
}

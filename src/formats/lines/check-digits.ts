/** Check digits by their standards: what stands behind a number so that a slip of the pen is noticed. */

/** Of the digits of a number; other characters count as their standard says, or do not. */
type Made = (text: string) => string;

/** ISO/IEC 7812-1: each second digit from the right is doubled, and the digits of all are added. */
const luhn: Made = (text) => {
  const sum = digitsOf(text).reduceRight(
    ({ total, isDoubled }, digit) => ({
      total: total + (isDoubled ? (digit > 4 ? 2 * digit - 9 : 2 * digit) : digit),
      isDoubled: !isDoubled,
    }),
    { total: 0, isDoubled: true },
  );
  return String((10 - (sum.total % 10)) % 10);
};

/** GS1 General Specifications 7.9: weights 3 and 1 from the right. */
const gs1: Made = (text) => {
  const sum = digitsOf(text)
    .reverse()
    .reduce((total, digit, i) => total + digit * (i % 2 === 0 ? 3 : 1), 0);
  return String((10 - (sum % 10)) % 10);
};

/** ISO/IEC 7064, pure system MOD 11-2: one digit, or X for ten. */
const mod11: Made = (text) => {
  const rest = digitsOf(text).reduce((sum, digit) => ((sum + digit) * 2) % 11, 0);
  const check = (12 - rest) % 11;
  return check === 10 ? "X" : String(check);
};

/** ISO/IEC 7064, pure system MOD 97-10: two digits; letters count as 10 to 35. */
const mod97: Made = (text) => {
  const rest = [...text.toUpperCase()].reduce((sum, char) => {
    const value = /\d/.test(char) ? Number(char) : /[A-Z]/.test(char) ? char.charCodeAt(0) - 55 : -1;
    return value < 0 ? sum : (sum * (value > 9 ? 100 : 10) + value) % 97;
  }, 0);
  return String(98 - ((rest * 100) % 97)).padStart(2, "0");
};

export const CHECK_DIGITS = { luhn, gs1, "mod-11-2": mod11, "mod-97-10": mod97 } as const;
export type CheckDigit = keyof typeof CHECK_DIGITS;

function digitsOf(text: string): number[] {
  return [...text.replace(/\D/g, "")].map(Number);
}

/** An exact decimal sum: small numbers are added as integers of their last decimal place, others by the decimal package. */
import Big from "big.js";

const SIMPLE = /^-?\d{1,9}(?:\.(\d{1,4}))?$/;
/** So many signs are a number that can be added exactly. */
const MOST_DIGITS = 10;
/** The point, counted from the digit 0. */
const POINT = -2;
const POWERS = [1, 10, 100, 1_000, 10_000];

/** A number that is nothing but digits, perhaps with a point between them. */
class Digits {
  units = 0;
  places = 0;

  read(bytes: Uint8Array, from: number, to: number): boolean {
    if (to - from > MOST_DIGITS || from === to) return false;
    let units = 0;
    let places = -1;
    for (let i = from; i < to; i++) {
      const digit = bytes[i] - 48;
      if (digit >= 0 && digit <= 9) {
        units = units * 10 + digit;
        if (places >= 0) places++;
      } else if (digit === POINT && places < 0 && i > from) places = 0;
      else return false;
    }
    this.units = units;
    this.places = Math.max(places, 0);
    return places !== 0;
  }
}
const DIGITS = new Digits();

export class Amount {
  /** What the simple numbers add up to, in units of the last of so many decimal places. */
  private units = 0;
  private places = 0;
  /** What the others add up to. */
  private others: Big | null = null;

  /** Adds a number as it is written; what is none adds nothing. */
  add(text: string): void {
    const simple = SIMPLE.exec(text);
    if (simple === null) {
      const value = numberOf(text);
      if (value !== null) this.others = value.plus(this.others ?? 0);
      return;
    }
    const places = simple[1] === undefined ? 0 : simple[1].length;
    this.addUnits(places === 0 ? Number(text) : Number(text.replace(".", "")), places);
  }

  private addUnits(units: number, places: number): void {
    if (places > this.places) {
      this.units *= POWERS[places - this.places];
      this.places = places;
    }
    this.units += units * POWERS[this.places - places];
    // sums stay far below what a number holds exactly
    if (Math.abs(this.units) > 1e14) this.settle();
  }

  /** Adds a number by its bytes: digits and a point; false when it is another. */
  addDigits(bytes: Uint8Array, from: number, to: number): boolean {
    if (!DIGITS.read(bytes, from, to) || DIGITS.places > 4) return false;
    this.addUnits(DIGITS.units, DIGITS.places);
    return true;
  }

  /** Is that what was added up, by its bytes? When in doubt, false. */
  isDigits(bytes: Uint8Array, from: number, to: number): boolean {
    return this.others === null && DIGITS.read(bytes, from, to) && DIGITS.places === this.places && DIGITS.units === this.units;
  }

  /** Nothing was added. */
  reset(): void {
    this.units = this.places = 0;
    this.others = null;
  }

  /** Adds one, of a count. */
  addOne(): void {
    this.units++;
  }

  /** Is that what was added up? When in doubt, false: then the value tells. */
  isPlainly(text: string): boolean {
    const simple = this.others === null ? SIMPLE.exec(text) : null;
    if (simple === null) return false;
    const places = simple[1] === undefined ? 0 : simple[1].length;
    return places === this.places && this.units === Number(places === 0 ? text : text.replace(".", ""));
  }

  get value(): Big {
    this.settle();
    return this.others!;
  }

  private settle(): void {
    this.others = new Big(`${this.units}e-${this.places}`).plus(this.others ?? 0);
    this.units = this.places = 0;
  }
}

/** The number that a text says, blanks around it left aside; null when it says none. */
export function numberOf(text: string): Big | null {
  try {
    return new Big(text.trim());
  } catch {
    return null;
  }
}

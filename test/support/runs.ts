/**
 * How often each law is tried on documents for which it says something: a document for which it does not (`fc.pre`) is drawn
 * anew, and when that happens too often the law fails, as it would prove nothing. LAW_RUNS asks for more runs. All draw from the
 * seed of the day, so that a day's failures come again; LAW_SEED and LAW_PATH, which fast-check prints, play one of them again.
 */
export const RUNS = Number(process.env.LAW_RUNS ?? 12);
export const SEED = Number(process.env.LAW_SEED ?? Math.floor(Date.now() / 86_400_000));

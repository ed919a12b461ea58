// Says lengths and speeds in the reader's units: the server writes them, and how much one is, on the page's root. A
// page that says none is in metres and metres per second.

const said = () => document.documentElement.dataset;

/** A length in the reader's unit, with its unit.
 * @param {number} metres @param {number} [decimals] */
export const lengthOf = (metres, decimals = 0) =>
  `${(metres / Number(said().lengthOne ?? 1)).toFixed(decimals)} ${said().length ?? "m"}`;

/** A speed in the reader's unit, with its unit.
 * @param {number} mps @param {number} [decimals] */
export const speedOf = (mps, decimals = 1) =>
  `${(mps / Number(said().speedOne ?? 1)).toFixed(decimals)} ${said().speed ?? "m/s"}`;

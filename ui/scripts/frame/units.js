// Says lengths and speeds in the reader's units: the server writes them, and how much one is, on the page's root. A
// page that says none is in metres and metres per second.

const { length = "m", lengthOne = "1", speed = "m/s", speedOne = "1" } = document.documentElement.dataset;

/** A length in the reader's unit, with its unit.
 * @param {number} metres @param {number} [decimals] */
export const lengthOf = (metres, decimals = 0) => `${(metres / Number(lengthOne)).toFixed(decimals)} ${length}`;

/** A speed in the reader's unit, with its unit.
 * @param {number} mps @param {number} [decimals] */
export const speedOf = (mps, decimals = 1) => `${(mps / Number(speedOne)).toFixed(decimals)} ${speed}`;

// How large the picture has to be drawn so that the craft looks as large as at the field: from the width of the screen
// and how far the eyes are from it.

/** What was measured, in cm; 0 where nobody has said.
 * @typedef {{screen_cm: number, away_cm: number}} Seat */

/** What is drawn where nothing was measured, degrees up and down. */
export const usual = 45;

const least = 8,
  most = 110;

/** The field of view in degrees, up and down, at which the picture is true to size: the angle that the view fills as
 * seen from the seat. high and wide are those of the view and of the whole screen, in the same pixels.
 * @param {Seat} seat @param {number} high of the view @param {number} wide of the screen
 * @returns {number} */
export function trueView(seat, high, wide) {
  if (!(seat.screen_cm > 0 && seat.away_cm > 0 && wide > 0 && high > 0)) return usual;
  const highCm = (seat.screen_cm * high) / wide;
  const deg = (2 * Math.atan(highCm / 2 / seat.away_cm) * 180) / Math.PI;
  return Math.min(most, Math.max(least, deg));
}

/** Says what size the picture has. @param {Seat} seat @param {number} high @param {number} wide @returns {string} */
export function sizeWords(seat, high, wide) {
  if (!(seat.screen_cm > 0 && seat.away_cm > 0))
    return `The size is not true: ${usual}° up and down. Say how wide your screen is and how far you sit from it.`;
  const view = trueView(seat, high, wide);
  return `The craft looks as large as at the field: ${view.toFixed(0)}° up and down, seen from ${seat.away_cm} cm.`;
}

/** Reads a measure in cm; 0 for what cannot be. @param {string} text @param {number} low @param {number} high */
export function centimetres(text, low, high) {
  const v = Number(text.trim().replace(",", "."));
  return v >= low && v <= high ? v : 0;
}

const key = "maestrale-seat";

/** @returns {Seat} */
export function seatNow() {
  try {
    const s = JSON.parse(localStorage.getItem(key) ?? "{}");
    return { screen_cm: Number(s.screen_cm) || 0, away_cm: Number(s.away_cm) || 0 };
  } catch {
    return { screen_cm: 0, away_cm: 0 };
  }
}

/** @param {Seat} seat */
export function keepSeat(seat) {
  try {
    localStorage.setItem(key, JSON.stringify(seat));
  } catch {
    // A browser that keeps nothing asks again next time.
  }
}

// The lost-craft trainer's view: the craft is a dot in the sky, among birds where the
// grade has them, and the eye stays where it looked so that a drift across can be seen.
import * as T from "three";

/**
 * @typedef {{level: string, birds: number, seed: number, near_m: number, station: [number, number],
 *   speed_mps: number, yaw_dps: number}} Lost
 */

/** How much of half of the picture the dot may wander before the eye follows it. */
const wanders = 0.62;

/** A round dot, where points are square. */
function round() {
  const c = document.createElement("canvas");
  c.width = c.height = 32;
  const g = /** @type {CanvasRenderingContext2D} */ (c.getContext("2d"));
  g.fillStyle = "#fff";
  g.beginPath();
  g.arc(16, 16, 15, 0, 7);
  g.fill();
  return new T.CanvasTexture(c);
}

export class Dot {
  /** @param {Lost} lost @param {number} eye height of it, m */
  constructor(lost, eye) {
    this.lost = lost;
    this.eye = eye;
    /** Where the eye looks: a bearing, once it has looked. @type {number | null} */
    this.aim = null;
    const g = new T.BufferGeometry();
    this.n = 1 + lost.birds;
    g.setAttribute("position", new T.BufferAttribute(new Float32Array(3 * this.n), 3));
    this.points = new T.Points(
      g,
      new T.PointsMaterial({
        color: 0x18211d,
        size: 6,
        sizeAttenuation: false,
        fog: false,
        map: round(),
        alphaTest: 0.4,
      }),
    );
    this.points.frustumCulled = false;
    let seed = (lost.seed % 2147483646) + 1;
    const rnd = () => {
      seed = (seed * 16807) % 2147483647;
      return seed / 2147483647;
    };
    for (let i = 0; i < 8; i++) rnd();
    this.birds = Array.from({ length: lost.birds }, () => ({
      bearing: 0.9 * (rnd() - 0.5),
      up: 0.1 + 0.25 * rnd(),
      far: 60 + 70 * rnd(),
      way: rnd() < 0.5 ? -1 : 1,
      speed: 0.02 + 0.05 * rnd(),
      phase: 7 * rnd(),
    }));
  }

  /** Whether a craft at x, y is near enough to be seen as it is. @param {number} x @param {number} y */
  near(x, y) {
    return Math.hypot(x - this.lost.station[0], y - this.lost.station[1]) <= this.lost.near_m;
  }

  /** Puts the dots where they are and aims the camera.
   * @param {T.PerspectiveCamera} camera @param {T.Vector3} place of the craft @param {number} t s */
  look(camera, place, t) {
    const [sx, sy] = this.lost.station;
    const dx = place.x - sx,
      dy = -place.z - sy;
    const bearing = Math.atan2(dx, dy);
    if (this.aim === null) this.aim = bearing;
    const reach = wanders * Math.atan(Math.tan((camera.fov * Math.PI) / 360) * camera.aspect);
    const off = Math.atan2(Math.sin(bearing - this.aim), Math.cos(bearing - this.aim));
    if (Math.abs(off) > reach) this.aim += off - Math.sign(off) * reach;
    const up = Math.atan2(place.y - this.eye, Math.hypot(dx, dy));
    camera.position.set(sx, this.eye, -sy);
    camera.rotation.set(up, -this.aim, 0, "YXZ");
    const p = /** @type {T.BufferAttribute} */ (this.points.geometry.getAttribute("position"));
    p.setXYZ(0, place.x, place.y, place.z);
    this.birds.forEach((b, i) => {
      const a = b.bearing + b.way * b.speed * t + 0.04 * Math.sin(0.7 * t + b.phase);
      const e = b.up + 0.02 * Math.sin(1.1 * t + 2 * b.phase);
      p.setXYZ(i + 1, sx + b.far * Math.sin(a), this.eye + b.far * Math.tan(e), -(sy + b.far * Math.cos(a)));
    });
    p.needsUpdate = true;
  }
}

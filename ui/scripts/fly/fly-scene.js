// What the pilot sees: the field, its markers and the craft, drawn from the state
// that the simulator gives.
import * as T from "three";
import { Dot } from "./fly-dot.js";
import { seatNow, trueView, usual } from "./screen.js";

/**
 * @typedef {{span_m: number, radius_m: number, rotors: {arm_m: number, angle_rad: number, clockwise: boolean}[],
 *   colour: string, lights: boolean, legs_m: number, land_v: number, blades: number, hover_rps: number}} Craft
 */
/** @typedef {{at: [number, number], radius_m: number, height_m: number, band_m: number}} Limit */
/**
 * @typedef {{craft: Craft, crowd: [number, number][][] | null, figures: {points: [number, number, number][],
 *   cross_m: number}[] | null, fields: string[], markers: Record<string, [number, number]>, limits: Limit[] | null,
 *   lost?: import("./fly-dot.js").Lost, solids: {Kind: number, Name: string, A: {X: number, Y: number},
 *   B: {X: number, Y: number}, Radius: number, Height: number}[] | null, eye_m: number}} Look
 */

/** @typedef {Record<string, number>} Fields */

/** The field's place as the drawing has it. @param {number} x @param {number} y @param {number} z */
const at = (x, y, z) => new T.Vector3(x, z, -y);

/** @param {T.ColorRepresentation} color */
const paint = (color) => new T.MeshLambertMaterial({ color });

/** Concrete with stains and cracks, so that drift can be seen; the same every time. */
function groundTexture() {
  const c = document.createElement("canvas");
  c.width = c.height = 512;
  const g = /** @type {CanvasRenderingContext2D} */ (c.getContext("2d"));
  g.fillStyle = "#8f958b";
  g.fillRect(0, 0, 512, 512);
  let seed = 7;
  const rnd = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647;
  };
  for (let i = 0; i < 2600; i++) {
    const v = Math.floor(110 + rnd() * 60);
    g.fillStyle = `rgba(${v},${v + 6},${v - 6},.5)`;
    const s = 1 + rnd() * (i % 40 === 0 ? 40 : 5);
    g.fillRect(rnd() * 512, rnd() * 512, s, s * (0.4 + rnd()));
  }
  g.strokeStyle = "rgba(60,66,60,.5)";
  for (let i = 0; i <= 512; i += 128) {
    g.strokeRect(i, -2, 0, 520);
    g.strokeRect(-2, i, 520, 0);
  }
  const t = new T.CanvasTexture(c);
  t.wrapS = t.wrapT = T.RepeatWrapping;
  t.repeat.set(60, 60);
  t.colorSpace = T.SRGBColorSpace;
  t.anisotropy = 8;
  return t;
}

/** Whether the person asked for little motion. */
const calm = () => matchMedia("(prefers-reduced-motion: reduce)").matches;

const lights = { red: 0xd8321f, green: 0x1fa048, white: 0xffffff };
/** @type {Record<string, number>} */
const cues = { orange: 0xf07818, yellow: 0xf0c818, red: 0xd03020, green: 0x30a050, blue: 0x3060d0, white: 0xf4f4f4 };

export class Scene {
  /** @param {HTMLCanvasElement} canvas @param {Look} look @param {Fields} fields where each number of a state stands */
  constructor(canvas, look, fields) {
    this.look = look;
    this.fields = fields;
    this.renderer = new T.WebGLRenderer({ canvas, antialias: true, powerPreference: "high-performance" });
    this.renderer.debug.checkShaderErrors = false; // to ask for them waits for the graphics at each
    this.scene = new T.Scene();
    this.scene.background = new T.Color(0xcfdde4);
    this.scene.fog = new T.Fog(0xcfdde4, 180, 420);
    this.camera = new T.PerspectiveCamera(45, 1, 0.05, 900);
    this.view = "pilot";
    this.seat = seatNow();
    this.zoom = false;
    this.scale = 1; // of the resolution, so that the rate of pictures holds
    this.slow = 0;
    this.scene.add(new T.HemisphereLight(0xeaf2f6, 0x6b7066, 1.5));
    const sun = new T.DirectionalLight(0xfff2dc, 1.7);
    sun.position.set(-40, 60, 30);
    this.scene.add(sun);
    /** What marks the place of the step. @type {T.Group | null} */
    this.place = null;
    /** The craft as a dot, until it is near. @type {Dot | null} */
    this.dot = look.lost ? new Dot(look.lost, look.eye_m) : null;
    if (this.dot) this.scene.add(this.dot.points);
  }

  /** What stands in the scene, to be built one after the other: all at once would hold up a slow phone. */
  parts() {
    return [this.ground, this.trees, this.course, this.crowd, this.build, this.streaks].map((part) => part.bind(this));
  }

  /** Builds all of it at once. */
  furnished() {
    for (const part of this.parts()) part();
    return this;
  }

  /** Lets the graphics make ready what the pictures need, a thing at a time, without holding anything up.
   * @param {() => Promise<unknown>} turn */
  async warm(turn) {
    this.fit();
    let since = performance.now();
    for (const thing of [...this.scene.children]) {
      this.renderer.compile(thing, this.camera, this.scene);
      if (performance.now() - since < 20) continue;
      await turn();
      since = performance.now();
    }
  }

  /** Ends once the graphics have it ready. */
  warmed() {
    return this.renderer.compileAsync(this.scene, this.camera);
  }

  ground() {
    const ground = new T.Mesh(new T.PlaneGeometry(480, 480), new T.MeshLambertMaterial({ map: groundTexture() }));
    ground.rotation.x = -Math.PI / 2;
    this.scene.add(ground);
  }

  /** Shows the craft as it is from now on. */
  reveal() {
    if (this.dot) this.scene.remove(this.dot.points);
    this.dot = null;
  }

  /** Marks the place of the step that is flown now: a ring at its height over a thin stalk, which hide nothing.
   * @param {[number, number, number] | null} p */
  mark(p) {
    if (this.place) this.scene.remove(this.place);
    this.place = null;
    if (!p) return;
    const [x, y, h] = p;
    const m = new T.MeshBasicMaterial({ color: 0xa13a1e, transparent: true, opacity: 0.75 });
    const ring = new T.Mesh(new T.TorusGeometry(0.35, 0.03, 8, 40), m);
    ring.rotation.x = -Math.PI / 2;
    ring.position.copy(at(x, y, Math.max(0.03, h)));
    this.place = new T.Group();
    this.place.add(ring);
    if (h > 0.1) {
      const stalk = new T.Mesh(new T.CylinderGeometry(0.012, 0.012, h, 6), m);
      stalk.position.copy(at(x, y, h / 2));
      this.place.add(stalk);
    }
    this.scene.add(this.place);
  }

  /** The line that nobody flies over: a rope on posts, with those who look on. */
  crowd() {
    for (const line of this.look.crowd ?? []) {
      for (let i = 1; i < line.length; i++) {
        const [ax, ay] = line[i - 1],
          [bx, by] = line[i],
          long = Math.hypot(bx - ax, by - ay);
        const rope = new T.Mesh(new T.BoxGeometry(long, 0.04, 0.04), paint(0xc98a1a));
        rope.position.copy(at((ax + bx) / 2, (ay + by) / 2, 0.9));
        rope.rotation.y = Math.atan2(by - ay, bx - ax);
        this.scene.add(rope);
        for (let d = 0; d <= long; d += 5) {
          const post = new T.Mesh(new T.CylinderGeometry(0.03, 0.03, 1, 8), paint(0x7a5a20));
          post.position.copy(at(ax + ((bx - ax) * d) / long, ay + ((by - ay) * d) / long, 0.5));
          this.scene.add(post);
        }
      }
    }
  }

  /** Streaks that go with the air, as on a plan: where they point the wind goes, and
   * the longer the stronger. */
  streaks() {
    const n = 240;
    let seed = 11;
    const rnd = () => {
      seed = (seed * 16807) % 2147483647;
      return seed / 2147483647;
    };
    this.motes = Array.from({ length: n }, () => ({
      x: 60 * rnd() - 30,
      y: 60 * rnd() - 30,
      z: 0.4 + 9 * rnd() * rnd(),
    }));
    const g = new T.BufferGeometry();
    g.setAttribute("position", new T.BufferAttribute(new Float32Array(6 * n), 3));
    this.air = new T.LineSegments(
      g,
      new T.LineBasicMaterial({ color: 0xf4f7f4, transparent: true, opacity: 0.75, depthWrite: false }),
    );
    this.air.frustumCulled = false;
    this.scene.add(this.air);
    this.blown = 0;
  }

  /** Moves the streaks on with the air at the craft. @param {Float64Array} s */
  blow(s) {
    if (!this.air || !this.motes) return;
    const f = this.fields,
      vx = s[f.airX],
      vy = s[f.airY],
      speed = Math.hypot(vx, vy);
    this.air.visible = speed > 0.3;
    const dt = Math.max(0, Math.min(0.5, s[f.t] - (this.blown ?? 0))) * (calm() ? 0 : 1);
    this.blown = s[f.t];
    const p = /** @type {T.BufferAttribute} */ (this.air.geometry.getAttribute("position"));
    const wrap = (/** @type {number} */ v, /** @type {number} */ mid) => mid + ((((v - mid + 30) % 60) + 60) % 60) - 30;
    this.motes.forEach((m, i) => {
      m.x = wrap(m.x + vx * dt, s[f.x]);
      m.y = wrap(m.y + vy * dt, s[f.y]);
      p.setXYZ(2 * i, m.x, m.z, -m.y);
      p.setXYZ(2 * i + 1, m.x - vx * 0.35, m.z, -(m.y - vy * 0.35));
    });
    p.needsUpdate = true;
  }

  /** A line of tamarisks far away, broken, so that height over it can be seen, and a
   * sky that is brighter at its foot. */
  trees() {
    const dark = paint(0x4f5f4b),
      pale = paint(0x66755c);
    for (let i = 0; i < 220; i++) {
      if (i % 29 > 25) continue;
      const a = (i / 220) * 2 * Math.PI;
      const h = 3 + 2.5 * Math.abs(Math.sin(i * 5.3)) + Math.sin(i * 0.7);
      const m = new T.Mesh(new T.IcosahedronGeometry(1, 1), i % 3 ? dark : pale);
      m.scale.set(2.6 + Math.abs(Math.sin(i * 3.1)), h / 2 + 0.4, 2.6);
      m.position.copy(at(150 * Math.sin(a), 150 * Math.cos(a), h / 2 - 0.4));
      m.rotation.y = i;
      this.scene.add(m);
    }
    const sky = document.createElement("canvas");
    sky.width = 4;
    sky.height = 256;
    const g = /** @type {CanvasRenderingContext2D} */ (sky.getContext("2d"));
    const fade = g.createLinearGradient(0, 0, 0, 256);
    fade.addColorStop(0, "#8fb0c8");
    fade.addColorStop(0.5, "#cfdde4");
    fade.addColorStop(1, "#cfdde4");
    g.fillStyle = fade;
    g.fillRect(0, 0, 4, 256);
    const t = new T.CanvasTexture(sky);
    t.colorSpace = T.SRGBColorSpace;
    this.scene.add(
      new T.Mesh(
        new T.SphereGeometry(420, 24, 24),
        new T.MeshBasicMaterial({ map: t, side: T.BackSide, fog: false, depthWrite: false }),
      ),
    );
  }

  course() {
    for (const [name, [x, y]] of Object.entries(this.look.markers)) {
      if (name.startsWith("pad")) {
        const pad = new T.Mesh(new T.CircleGeometry(0.5, 40), paint(0xf4f1e6));
        pad.rotation.x = -Math.PI / 2;
        pad.position.copy(at(x, y, 0.006));
        const ring = new T.Mesh(new T.RingGeometry(0.3, 0.36, 40), paint(0xa13a1e));
        ring.rotation.x = -Math.PI / 2;
        ring.position.copy(at(x, y, 0.008));
        this.scene.add(pad, ring);
      } else if (Math.hypot(x - (this.look.markers.pad?.[0] ?? 99), y - (this.look.markers.pad?.[1] ?? 99)) > 0.5) {
        const cone = new T.Mesh(new T.ConeGeometry(0.11, 0.3, 14), paint(0xd9622b));
        cone.position.copy(at(x, y, 0.15));
        this.scene.add(cone);
      }
    }
    for (const l of this.look.limits ?? []) {
      const ring = new T.Mesh(
        new T.RingGeometry(l.radius_m - 0.04, l.radius_m, 64),
        new T.MeshBasicMaterial({ color: 0x1c6a66, transparent: true, opacity: 0.9 }),
      );
      ring.rotation.x = -Math.PI / 2;
      ring.position.copy(at(l.at[0], l.at[1], 0.012));
      this.scene.add(ring);
    }
    // A path is drawn on the ground, and in the air where it climbs.
    for (const f of this.look.figures ?? []) {
      const climbs = f.points.some((p) => Math.abs(p[2] - f.points[0][2]) > 0.1);
      for (const lift of climbs ? [0, 1] : [0]) {
        const g = new T.BufferGeometry().setFromPoints(f.points.map(([x, y, z]) => at(x, y, lift ? z : 0.02)));
        this.scene.add(new T.Line(g, new T.LineBasicMaterial({ color: lift ? 0xa13a1e : 0x1c6a66 })));
      }
    }
    for (const s of this.look.solids ?? []) {
      const mat = paint([0x56684f, 0x9a9488, 0x222a26, 0x9a9488, 0x5f8fa0][s.Kind]);
      const dx = s.B.X - s.A.X,
        dy = s.B.Y - s.A.Y,
        long = Math.hypot(dx, dy);
      let m;
      if (s.Kind === 0) m = new T.Mesh(new T.CylinderGeometry(s.Radius, s.Radius, s.Height, 12), mat);
      else if (s.Kind === 2) m = new T.Mesh(new T.BoxGeometry(long, 0.03, 0.03), mat);
      else if (s.Kind === 4) m = new T.Mesh(new T.BoxGeometry(Math.abs(dx), 0.02, Math.abs(dy)), mat);
      else m = new T.Mesh(new T.BoxGeometry(long, s.Height, 0.15), mat);
      m.position.copy(
        at((s.A.X + s.B.X) / 2, (s.A.Y + s.B.Y) / 2, s.Kind === 2 ? s.Height : s.Kind === 4 ? 0.01 : s.Height / 2),
      );
      if (s.Kind !== 4) m.rotation.y = Math.atan2(dy, dx);
      this.scene.add(m);
    }
  }

  /** The craft to its size: arms with a coloured cue at the nose, rotors, legs, and
   * lights as aviation has them. Its own nose is -z, its up y. */
  build() {
    const c = this.look.craft;
    this.craft = new T.Group();
    const body = new T.Mesh(new T.BoxGeometry(c.span_m * 0.24, c.span_m * 0.14, c.span_m * 0.42), paint(0x2c3431));
    const nose = new T.Mesh(
      new T.BoxGeometry(c.span_m * 0.16, c.span_m * 0.11, c.span_m * 0.08),
      paint(cues[c.colour] ?? cues.orange),
    );
    nose.position.z = -c.span_m * 0.24;
    this.craft.add(body, nose);
    /** @type {T.Mesh[]} */
    this.discs = [];
    for (const r of c.rotors) {
      const x = r.arm_m * Math.sin(r.angle_rad),
        z = -r.arm_m * Math.cos(r.angle_rad);
      const front = Math.cos(r.angle_rad) > 0.05;
      const arm = new T.Mesh(
        new T.BoxGeometry(c.span_m * 0.05, c.span_m * 0.05, r.arm_m),
        paint(front ? (cues[c.colour] ?? cues.orange) : 0x2c3431),
      );
      arm.position.set(x / 2, 0, z / 2);
      arm.lookAt(x, 0, z);
      const disc = new T.Mesh(
        new T.CircleGeometry(c.radius_m, 28),
        new T.MeshBasicMaterial({
          color: 0x1a211e,
          transparent: true,
          opacity: 0.22,
          side: T.DoubleSide,
          depthWrite: false,
        }),
      );
      disc.rotation.x = -Math.PI / 2;
      disc.position.set(x, c.span_m * 0.06, z);
      const leg = new T.Mesh(new T.BoxGeometry(c.span_m * 0.03, c.legs_m, c.span_m * 0.03), paint(0x2c3431));
      leg.position.set(x * 0.7, -c.legs_m / 2, z * 0.7);
      this.craft.add(arm, disc, leg);
      this.discs.push(disc);
    }
    const lamp = (/** @type {number} */ color, /** @type {number} */ x, /** @type {number} */ z) => {
      const m = new T.Mesh(new T.SphereGeometry(c.span_m * 0.045, 10, 8), new T.MeshBasicMaterial({ color }));
      m.position.set(x, c.span_m * 0.03, z);
      this.craft?.add(m);
    };
    if (c.lights) {
      lamp(lights.red, -c.span_m * 0.34, 0);
      lamp(lights.green, c.span_m * 0.34, 0);
      lamp(lights.white, 0, c.span_m * 0.25);
    }
    this.shadow = new T.Mesh(
      new T.CircleGeometry(c.span_m * 0.75, 24),
      new T.MeshBasicMaterial({ color: 0x101512, transparent: true, opacity: 0.5, depthWrite: false }),
    );
    this.shadow.rotation.x = -Math.PI / 2;
    this.scene.add(this.craft, this.shadow);
  }

  /** Draws a state as flight.wasm gives it.
   * @param {Float64Array} s */
  draw(s) {
    if (!this.craft || !this.shadow) return;
    const f = this.fields;
    const place = at(s[f.x], s[f.y], s[f.middle]);
    this.craft.position.copy(place);
    this.craft.quaternion.set(s[f.qx], s[f.qz], -s[f.qy], s[f.qw]);
    this.shadow.position.set(place.x, 0.015, place.z);
    const dim = /** @type {T.MeshBasicMaterial} */ (this.shadow.material);
    dim.opacity = 0.5 / (1 + s[f.z] * 0.5);
    this.discs?.forEach((d, i) => {
      /** @type {T.MeshBasicMaterial} */ (d.material).opacity =
        Math.abs(s[f.rotor1 + i]) > 2 ? 0.16 + 0.1 * ((i + Math.round(s[f.t] * 60)) % 2) : 0.05;
    });
    const dot = this.dot;
    this.shadow.visible = !dot;
    if (dot) {
      dot.look(this.camera, place, s[f.t]);
    } else if (this.view === "pilot") {
      this.camera.position.set(0, this.look.eye_m, 0);
      this.camera.lookAt(place);
    } else if (this.view === "onboard") {
      // The gimbal keeps the picture level; the wheel tilts it.
      this.camera.position.copy(place);
      this.camera.rotation.set(s[f.tilt], -s[f.heading], 0, "YXZ");
    } else {
      const back = new T.Vector3(0, 0.5, 1.6).multiplyScalar(1.2 + this.look.craft.span_m * 2);
      const h = -s[f.heading];
      this.camera.position.copy(place).add(back.applyAxisAngle(new T.Vector3(0, 1, 0), h));
      this.camera.lookAt(place);
    }
    this.blow(s);
    if (dot && this.air) this.air.visible = false; // it would say how far off it is
    this.fit();
    const began = performance.now();
    this.craft.visible = this.view !== "onboard" && !dot;
    if (this.view === "onboard" && !dot && !s[f.picture]) {
      // the screen is dark
      this.renderer.clear();
      this.renderer.setClearColor(0x000000);
      this.renderer.render(new T.Scene(), this.camera);
      return;
    }
    this.renderer.render(this.scene, this.camera);
    if (this.zoom && this.view === "pilot") this.enlarge(place);
    this.adapt(performance.now() - began);
  }

  /** The zoom inset: the craft eight times as large, at the foot of the view.
   * @param {T.Vector3} place */
  enlarge(place) {
    const c = this.renderer.domElement,
      w = Math.round(c.width * 0.22),
      h = Math.round(w * 0.75),
      r = this.renderer.getPixelRatio();
    const lens = new T.PerspectiveCamera(this.camera.fov / 8, w / h, 0.05, 900);
    lens.position.copy(this.camera.position);
    lens.lookAt(place);
    const x = Math.round((c.width - w) / 2);
    this.renderer.setScissorTest(true);
    this.renderer.setScissor(x / r, 8 / r, w / r, h / r);
    this.renderer.setViewport(x / r, 8 / r, w / r, h / r);
    this.renderer.render(this.scene, lens);
    this.renderer.setScissorTest(false);
    this.renderer.setViewport(0, 0, c.width / r, c.height / r);
  }

  fit() {
    const c = this.renderer.domElement;
    // A page that is shown smaller than its size has fewer pixels than that: more would be drawn for nothing.
    const scale = this.scale * Math.min(1, devicePixelRatio || 1);
    const w = Math.max(1, Math.round(c.clientWidth * scale)),
      h = Math.max(1, Math.round(c.clientHeight * scale));
    if (c.width !== w || c.height !== h) {
      this.renderer.setSize(w, h, false);
      this.camera.aspect = w / h;
      this.camera.updateProjectionMatrix();
    }
    const view = this.view === "pilot" ? trueView(this.seat, c.clientHeight, screen.width) : usual;
    if (this.camera.fov !== view) {
      this.camera.fov = view;
      this.camera.updateProjectionMatrix();
    }
  }

  /** Draws coarser where a picture takes longer than it may. @param {number} ms */
  adapt(ms) {
    this.slow = 0.9 * this.slow + 0.1 * ms;
    if (this.slow > 14 && this.scale > 0.45) {
      this.scale *= 0.85;
      this.slow = 8;
    }
    if (this.slow < 4 && this.scale < 1) this.scale = Math.min(1, this.scale * 1.02);
  }
}

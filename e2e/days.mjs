// Offline days of three devices: the pad's own scripts, each device in a world of its own with its clock, its store and
// its network, against a server whose clock this drives. Run by the Go test TestOfflineDays, which says where the
// server
// is and compares what arrived with what is printed here.
import { randomUUID, webcrypto } from "node:crypto";
import path from "node:path";
import vm from "node:vm";
import { build } from "esbuild";
import * as idbTypes from "fake-indexeddb";

const { url, clock: clockAt, days, seed, people, students } = JSON.parse(process.argv[2]);

/** Numbers by chance, the same for the same seed (mulberry32). */
let state = seed >>> 0;
const rand = () => {
  state = (state + 0x6d2b79f5) >>> 0;
  let t = state;
  t = Math.imul(t ^ (t >>> 15), t | 1);
  t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
  return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
};
const pick = (list) => list[Math.floor(rand() * list.length)];

const script = await build({
  stdin: {
    contents: `export * as keep from "./frame/keep.js"; export * as clock from "./pad/clock.js";
      export * as line from "./pad/line.js"; export * as vault from "./pad/vault.js";`,
    resolveDir: path.resolve(import.meta.dirname, "../ui/scripts"),
  },
  bundle: true,
  write: false,
  format: "iife",
  globalName: "pad",
  target: "es2022",
});
const code = new vm.Script(script.outputFiles[0].text.replace("600000", "1000")); // a PIN that is tried in no time

let truth = Date.now() - 40 * 864e5; // the time that everybody shares, ms
async function pass(ms) {
  truth += ms;
  await fetch(`${clockAt}?ms=${truth}`);
}
async function advance(ms) {
  await pass(ms);
  for (const d of devices) d.tick();
}

/** A browser on a device: its jar of cookies, its store, its clock, and its page while one is open. */
class Device {
  constructor(name) {
    Object.assign(this, {
      name,
      off: (rand() - 0.5) * 4e5,
      idb: new idbTypes.IDBFactory(),
      local: new Map(),
      cookie: "",
    });
    Object.assign(this, { online: true, lossy: 0, page: null, loaded: 0, slept: 0, hidden: false, person: null });
  }
  wall() {
    return truth + this.off;
  }
  mono() {
    return truth - this.loaded - this.slept;
  }
  tick() {
    for (const f of this.page?.ticks ?? []) f();
  }
  /** What goes over the network, with this device's cookies. */
  async fetch(page, at, init = {}) {
    if (page !== this.page) return new Promise(() => {}); // a page that was killed hears nothing
    if (!this.online || rand() < this.lossy / 2) throw new TypeError("no network");
    const way = () => rand() * (rand() < 0.1 ? 700 : 150); // ms; together they are what a slow line takes
    await pass(way());
    const r = await fetch(url + at, {
      ...init,
      redirect: "manual",
      headers: { ...init.headers, cookie: this.cookie },
    });
    const set = r.headers.get("set-cookie");
    if (set) this.cookie = set.split(";")[0];
    const body = await r.text();
    await pass(way());
    if (page !== this.page) return new Promise(() => {});
    if (rand() < this.lossy / 2) throw new TypeError("the answer was lost");
    return { ok: r.ok, status: r.status, redirected: r.status === 303, json: async () => JSON.parse(body) };
  }
  kill() {
    this.page?.end();
    this.page = null;
  }
  /** Waits for something on the page, or for the page to be killed. */
  wait(something) {
    return Promise.race([something, this.page ? this.page.gone : undefined]);
  }
  /** Opens the pad. */
  open() {
    this.loaded = truth;
    this.slept = 0;
    const page = { ticks: [] };
    page.gone = new Promise((end) => {
      page.end = end;
    });
    this.page = page;
    const device = this;
    class Now extends Date {
      constructor(...a) {
        super(...(a.length ? a : [device.wall()]));
      }
      static now() {
        return device.wall();
      }
    }
    const storage = (map) => ({
      getItem: (k) => map.get(k) ?? null,
      setItem: (k, v) => map.set(k, String(v)),
      removeItem: (k) => map.delete(k),
      clear: () => map.clear(),
    });
    const world = {
      Date: Now,
      performance: { now: () => device.mono() },
      crypto: webcrypto,
      indexedDB: this.idb,
      IDBKeyRange: idbTypes.IDBKeyRange,
      isSecureContext: true,
      localStorage: storage(this.local),
      sessionStorage: storage(new Map()),
      navigator: { userAgent: "a device of a test", onLine: true },
      document: {
        addEventListener() {},
        get hidden() {
          return device.hidden;
        },
      },
      setInterval: (f) => page.ticks.push(f),
      setTimeout: () => 0, // sending is asked for by the day itself
      clearTimeout() {},
      fetch: (at, init) => device.fetch(page, at, init),
      TextEncoder,
      TextDecoder,
      btoa,
      atob,
      URLSearchParams,
    };
    for (const n of [
      "IDBRequest",
      "IDBOpenDBRequest",
      "IDBTransaction",
      "IDBDatabase",
      "IDBObjectStore",
      "IDBIndex",
      "IDBCursor",
      "IDBCursorWithValue",
    ])
      world[n] = idbTypes[n];
    world.globalThis = world;
    code.runInContext(vm.createContext(world));
    page.pad = vm.runInContext("pad", world);
    return page.pad;
  }
}

const devices = ["one", "two", "three"].map((n) => new Device(n));
/** What was marked, as the one who marked knows it. */
const told = [];
const log = { kills: 0, clocks: 0, signins: 0, sleeps: 0 };

async function signIn(d, person) {
  log.signins++;
  d.cookie = "";
  const r = await fetch(`${url}/sign-in`, {
    method: "POST",
    redirect: "manual",
    headers: { "Content-Type": "application/x-www-form-urlencoded" },
    body: new URLSearchParams({ email: person.email, password: "secret" }),
  });
  if (r.status !== 303) throw new Error(`sign-in: ${r.status}`);
  d.cookie = r.headers.getSetCookie().at(-1).split(";")[0];
  d.person = person;
}

/** Opens the pad as far as it opens: with its lock, or anew where somebody is signed in and the school is reached. */
async function openPad(d) {
  const pad = d.open();
  await pad.clock.openClock();
  pad.line.listen({
    told() {},
    async left() {
      await pad.keep.forget();
      d.kill();
    },
  });
  if (!(await pad.vault.reopen())) {
    if (await pad.vault.hasLock()) await pad.vault.unlock("4711");
    else {
      const now = await d.wait(pad.keep.whoIs().catch(() => null));
      if (!now || d.page?.pad !== pad) return d.kill();
      await pad.vault.make(now.sign_in, "4711");
      await pad.line.take(now);
      await d.wait(pad.clock.meet());
    }
  }
  await pad.line.readRooms();
  const now = await d.wait(pad.keep.whoIs().catch(() => undefined));
  if (d.page?.pad !== pad) return;
  if (!pad.line.who || now === null || (now && now.sign_in !== pad.line.who.sign_in)) {
    await pad.keep.forget();
    return d.kill();
  }
  d.owner = people.find((p) => p.id === pad.line.who.account);
}

const run = new Map(); // the attempt that goes on, by device
const free = new Map(); // when a student is down again

/** Something happens on a device. */
async function event(d) {
  const pad = d.page?.pad;
  const r = rand();
  if (!pad) {
    if (!d.cookie || r < 0.3) {
      if (!d.online) d.online = rand() < 0.7;
      if (d.online) await signIn(d, pick(people));
    }
    run.delete(d);
    return openPad(d);
  }
  const going = run.get(d);
  if (r < 0.5) {
    if (!going) {
      const student = students.find((s) => (free.get(s) ?? 0) < truth);
      if (!student) return;
      free.set(student, truth + 600_000);
      const a = await pad.line.begin(student, {
        drill: "hover-tail-in",
        side: "none",
        level: 1,
        aids: "position-hold",
        craft: "poiana",
        course: "",
      });
      const mine = { id: a.opening.id, student, by: d.owner.id, began: truth, device: d.name, seq: a.seq, marks: [] };
      told.push(mine);
      run.set(d, { a, mine });
      await mark(d, "start");
    } else if (going.a.marks.length < 4) await mark(d, pick(["in", "out", "in", "touch"]));
    else {
      await mark(d, "done");
      run.delete(d);
    }
  } else if (r < 0.56) {
    log.clocks++;
    d.off += pick([-1, 1]) * pick([60e3, 3600e3, 864e5]);
    d.tick();
  } else if (r < 0.6) {
    log.sleeps++;
    d.hidden = true;
    d.tick();
    const ms = 60e3 + rand() * 1e6;
    d.slept += ms;
    await advance(ms);
    d.tick();
    d.hidden = false;
    d.tick();
  } else if (r < 0.66) {
    log.kills++;
    d.kill();
    run.delete(d);
    if (rand() < 0.1) {
      log.clocks++;
      d.off += pick([-1, 1]) * 3600e3; // while no page is open
    }
    await advance(rand() * 400e3);
    await openPad(d);
  } else if (r < 0.72) {
    d.online = !d.online;
  } else if (r < 0.75) {
    d.lossy = pick([0, 0.3, 0.7]);
  } else if (r < 0.8) {
    // Somebody signs out, or the sign-in ends; somebody else takes the device.
    run.delete(d);
    if (rand() < 0.5) await pad.keep.forget();
    d.kill();
    d.cookie = "";
    if (d.online) await signIn(d, pick(people));
    await openPad(d);
  } else await d.wait(pad.line.sync());
}

async function mark(d, kind) {
  const { a, mine } = run.get(d);
  const m = { id: randomUUID(), t_s: Math.round(truth - mine.began) / 1000, mark: kind };
  a.marks.push(m);
  await d.page.pad.line.keepAttempt(d.page.pad.line.keptOf(a));
  mine.marks.push({ id: m.id, mark: kind });
  if (rand() < 0.1) {
    log.kills++; // in the middle of sending
    d.kill();
    run.delete(d);
  } else if (d.page) await d.wait(d.page.pad.line.sync());
}

for (let day = 0; day < days; day++) {
  await advance(3600e3);
  for (let i = 0; i < 40; i++) {
    await advance(200 + rand() * 9000);
    await event(pick(devices));
  }
  // In the evening everything comes home: whoever is signed in delivers.
  for (const d of devices) {
    run.delete(d);
    d.online = true;
    d.lossy = 0;
    if (!d.cookie) await signIn(d, pick(people));
    if (!d.page) await openPad(d);
    for (let i = 0; i < 4 && d.page; i++) {
      await advance(500);
      await d.wait(d.page.pad.line.sync());
    }
    if (!d.page) {
      await signIn(d, pick(people));
      await openPad(d);
      if (d.page) await d.wait(d.page.pad.line.sync());
    }
    if (d.page) {
      const left = await d.page.pad.keep.outbox();
      if (left.length > 0)
        throw new Error(`day ${day}, device ${d.name}: ${JSON.stringify(left[0].refused ?? left[0].id)}`);
    }
  }
}
console.log(JSON.stringify({ told, log }));

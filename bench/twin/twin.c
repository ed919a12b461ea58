/* The simulator's tick once more, in C: what a tick costs is held against it (make bench-all). It flies what
 * core/flight/twin_test.go flies, a craft with position hold in gusts, and has to end with the same bits; what that
 * flight does not meet (the ground, things that stand on the course, a lost radio) is not in it.
 *
 * It reads the numbers of a flight as "name value" lines in C's hexadecimal form, flies the ticks that its first
 * argument says, and prints the state, and on the last line the ns that a tick took.
 *
 * cc -O2 -ffp-contract=off -o twin twin.c -lm */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#define ROTORS 8
typedef struct { double x, y, z; } vec;
typedef struct { vec x, y, z; } mat;

/* The numbers of the flight, in the order in which they are read. */
#define NUMBERS \
	N(ticks) N(dt) N(pitch) N(yaw) N(n) N(mass) N(span) N(radius) N(hoverInflow) N(hoverPitch) N(kThrust) N(mostOmega) \
	N(idle) N(density) N(inertiaX) N(inertiaY) N(inertiaZ) N(rotorInertia) N(rotorDrag) N(bodyDrag) N(drive) \
	N(electronics) N(cells) N(capacity) N(emptyVolts) N(fullVolts) N(perMass) N(lagStep) N(inertiaStep) N(thrust) N(drag) \
	N(throughput) N(supplyStep) N(inflowStep) N(meanLog) N(driftFix) N(driftHeight) N(driftWash) N(driftSkid) N(packOhm) \
	N(draw) N(place) N(speed) N(lean) N(rate) N(height) N(climb) N(limLean) N(limSpeed) N(limYaw) N(limClimb) \
	N(limDescend) N(limBrake) N(down) N(gusts) N(roughness) N(windMps) N(windToX) N(windToY)
#define LISTS L(mixX) L(mixY) L(inverse0) L(inverse1) L(inverse2) L(inverse3) L(clockwise) L(weak) L(curve)
#define CHANGING \
	C(posX) C(posY) C(posZ) C(velX) C(velY) C(velZ) C(attW) C(attX) C(attY) C(attZ) C(rateX) C(rateY) C(rateZ) \
	C(charge) C(volts) C(supply) C(inflow) C(airX) C(airY) C(airZ) C(leanX) C(leanY) C(lift) C(holdX) C(holdY) C(holdZ) \
	C(holdHeading)

static struct {
#define N(x) double x;
#define L(x) double x[11];
#define C(x) double x;
	NUMBERS LISTS CHANGING
#undef N
#undef L
#undef C
} p;
static uint64_t seeds[4]; /* of the gusts and of the noise */

static double number(const char *name) {
	char word[64];
	double v;
	if (scanf("%63s %la", word, &v) != 2 || strcmp(word, name) != 0) {
		fprintf(stderr, "twin: expected %s\n", name);
		exit(2);
	}
	return v;
}

static void numbers(void) {
#define N(x) p.x = number(#x);
#define L(x) for (int i = 0; i < 11; i++) p.x[i] = number(#x);
#define C(x) p.x = number(#x);
	NUMBERS LISTS CHANGING
#undef N
#undef L
#undef C
	for (int i = 0; i < 4; i++)
		if (scanf("%lx", &seeds[i]) != 1) exit(2);
}

/* ---- fmath ---- */

static double bits(uint64_t b) { double v; memcpy(&v, &b, 8); return v; }

static int reduce(double x, double *head, double *tail) {
	const double two = 6.36619772367581382433e-01, first = 1.57079632673412561417e+00, second = 6.07710050630396597660e-11,
		third = 2.02226624871116645580e-21, rest = 8.47842766036889956997e-32;
	double n = floor(x * two + 0.5), r = x - n * first, w = n * second, a = r - w;
	w = n * third - ((r - a) - w);
	double b = a - w;
	w = n * rest - ((a - b) - w);
	*head = b - w;
	*tail = (b - *head) - w;
	return (int)((int64_t)n & 3);
}

static double kernel_sin(double x, double tail) {
	const double s1 = -1.66666666666666324348e-01, s2 = 8.33333333332248946124e-03, s3 = -1.98412698298579493134e-04,
		s4 = 2.75573137070700676789e-06, s5 = -2.50507602534068634195e-08, s6 = 1.58969099521155010221e-10;
	double z = x * x, v = z * x, r = s2 + z * (s3 + z * (s4 + z * (s5 + z * s6)));
	return x - ((z * (0.5 * tail - v * r) - tail) - v * s1);
}

static double kernel_cos(double x, double tail) {
	const double c1 = 4.16666666666666019037e-02, c2 = -1.38888888888741095749e-03, c3 = 2.48015872894767294178e-05,
		c4 = -2.75573143513906633035e-07, c5 = 2.08757232129817482790e-09, c6 = -1.13596475577881948265e-11;
	double z = x * x, r = z * (c1 + z * (c2 + z * (c3 + z * (c4 + z * (c5 + z * c6))))), half = 0.5 * z, w = 1 - half;
	return w + (((1 - w) - half) + (z * r - x * tail));
}

static void sin_cos(double x, double *s, double *c) {
	if (!(fabs(x) <= 1 << 20)) { *s = *c = NAN; return; }
	double head, tail;
	int q = reduce(x, &head, &tail);
	double a = kernel_sin(head, tail), b = kernel_cos(head, tail);
	switch (q) {
	case 0: *s = a; *c = b; return;
	case 1: *s = b; *c = -a; return;
	case 2: *s = -a; *c = -b; return;
	}
	*s = -b;
	*c = a;
}

static double arc_tan(double x) {
	const double a0 = 3.33333333333329318027e-01, a1 = -1.99999999998764832476e-01, a2 = 1.42857142725034663711e-01,
		a3 = -1.11111104054623557880e-01, a4 = 9.09088713343650656196e-02, a5 = -7.69187620504482999495e-02,
		a6 = 6.66107313738753120669e-02, a7 = -5.83357013379057348645e-02, a8 = 4.97687799461593236017e-02,
		a9 = -3.65315727442169155270e-02, a10 = 1.62858201153657823623e-02;
	if (x != x) return x;
	double t = fabs(x), high = 0, low = 0;
	if (t >= 0x1p54) return copysign(M_PI / 2, x);
	if (t < 0.4375) {
	} else if (t < 0.6875) {
		high = 4.63647609000806093515e-01, low = 2.26987774529616870924e-17, t = (2 * t - 1) / (2 + t);
	} else if (t < 1.1875) {
		high = 7.85398163397448278999e-01, low = 3.06161699786838301793e-17, t = (t - 1) / (t + 1);
	} else if (t < 2.4375) {
		high = 9.82793723247329054082e-01, low = 1.39033110312309984516e-17, t = (t - 1.5) / (1 + 1.5 * t);
	} else {
		high = 1.57079632679489655800e+00, low = 6.12323399573676603587e-17, t = -1 / t;
	}
	double z = t * t, w = z * z;
	double even = z * (a0 + w * (a2 + w * (a4 + w * (a6 + w * (a8 + w * a10)))));
	double odd = w * (a1 + w * (a3 + w * (a5 + w * (a7 + w * a9))));
	double y = high - ((t * (even + odd) - low) - t);
	if (high == 0) y = t - t * (even + odd);
	return copysign(y, x);
}

static double arc_tan2(double y, double x) {
	if (x != x || y != y) return NAN;
	if (y == 0) return x > 0 || (x == 0 && !signbit(x)) ? y : copysign(M_PI, y);
	if (x == 0) return copysign(M_PI / 2, y);
	if (isinf(x) && isinf(y)) return copysign(x > 0 ? M_PI / 4 : 3 * (M_PI / 4), y);
	double a = arc_tan(fabs(y / x));
	if (x < 0) a = M_PI - (a - 1.2246467991473531772e-16);
	return copysign(a, y);
}

static double scale(double y, int n) {
	if (n > 1023) return y * bits((uint64_t)(1023 + 1023) << 52) * bits((uint64_t)(n - 1023 + 1023) << 52);
	if (n < -1021) return y * bits((uint64_t)(n + 1000 + 1023) << 52) * bits((uint64_t)(-1000 + 1023) << 52);
	return y * bits((uint64_t)(n + 1023) << 52);
}

static double ex(double x) {
	const double high = 6.93147180369123816490e-01, low = 1.90821492927058770002e-10, inv = 1.44269504088896338700e+00,
		p1 = 1.66666666666666019037e-01, p2 = -2.77777777770155933842e-03, p3 = 6.61375632143793436117e-05,
		p4 = -1.65339022054652515390e-06, p5 = 4.13813679705723846039e-08;
	if (x != x) return x;
	if (x > 7.09782712893383973096e+02) return INFINITY;
	if (x < -7.45133219101941108420e+02) return 0;
	double n = floor(x * inv + 0.5), hi = x - n * high, lo = n * low, r = hi - lo, t = r * r;
	double c = r - t * (p1 + t * (p2 + t * (p3 + t * (p4 + t * p5))));
	return scale(1 - ((lo - r * c / (2 - c)) - hi), (int)n);
}

static double lg(double x) {
	const double high = 6.93147180369123816490e-01, low = 1.90821492927058770002e-10, l1 = 6.666666666666735130e-01,
		l2 = 3.999999999940941908e-01, l3 = 2.857142874366239149e-01, l4 = 2.222219843214978396e-01,
		l5 = 1.818357216161805012e-01, l6 = 1.531383769920937332e-01, l7 = 1.479819860511658591e-01;
	if (x != x || x < 0) return NAN;
	if (x == 0) return -INFINITY;
	if (isinf(x)) return x;
	uint64_t b;
	memcpy(&b, &x, 8);
	int k = 0;
	if (b >> 52 == 0) {
		double up = x * 0x1p54;
		memcpy(&b, &up, 8);
		k = -54;
	}
	k += (int)(b >> 52) - 1023;
	double m = bits((b & ((1ull << 52) - 1)) | 1023ull << 52);
	if (m > M_SQRT2) m = m * 0.5, k++;
	double f = m - 1, s = f / (2 + f), z = s * s, w = z * z;
	double t1 = w * (l2 + w * (l4 + w * l6)), t2 = z * (l1 + w * (l3 + w * (l5 + w * l7))), r = t1 + t2;
	double half = 0.5 * f * f, n = k;
	return n * high - ((half - (s * (half + r) + n * low)) - f);
}

typedef struct { uint64_t high, low; double spare; int has; } source;
static source gust_rand, noise;

static void step_rand(source *r) {
	const uint64_t mh = 2549297995355413924u, ml = 4865540595714422341u, ah = 6364136223846793005u, al = 1442695040888963407u;
	uint64_t x0 = r->low & 0xffffffff, x1 = r->low >> 32, y0 = ml & 0xffffffff, y1 = ml >> 32;
	uint64_t w0 = x0 * y0, t = x1 * y0 + (w0 >> 32), w1 = (t & 0xffffffff) + x0 * y1;
	uint64_t hi = x1 * y1 + (t >> 32) + (w1 >> 32) + r->high * ml + r->low * mh, low = r->low * ml, next = low + al;
	if (next < low) hi++;
	r->high = hi + ah, r->low = next;
}

static double signed_rand(source *r) {
	step_rand(r);
	uint64_t x = r->high ^ r->low, turn = r->high >> 58, v = x >> turn | x << ((64 - turn) & 63);
	return (double)((int64_t)v >> 11) / 4503599627370496.0;
}

static double normal(source *r) {
	if (r->has) { r->has = 0; return r->spare; }
	for (;;) {
		double u = signed_rand(r), v = signed_rand(r), s = u * u + v * v;
		if (s >= 1 || s == 0) continue;
		double k = sqrt(-2 * lg(s) / s);
		r->spare = v * k, r->has = 1;
		return u * k;
	}
}

/* ---- vectors ---- */

static double lesser(double a, double b) { return b < a ? b : a; }
static double greater(double a, double b) { return b > a ? b : a; }
static double clamp(double v, double low, double high) { return v < low ? low : v > high ? high : v; }
static vec add(vec a, vec b) { return (vec){a.x + b.x, a.y + b.y, a.z + b.z}; }
static vec sub(vec a, vec b) { return (vec){a.x - b.x, a.y - b.y, a.z - b.z}; }
static vec times(vec a, double k) { return (vec){k * a.x, k * a.y, k * a.z}; }
static double dot(vec a, vec b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
static double length(vec a) { return sqrt(dot(a, a)); }
static double flat(vec a) { return sqrt(a.x * a.x + a.y * a.y); }
static vec cross(vec a, vec b) { return (vec){a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x}; }
static vec out(const mat *m, vec v) { return add(add(times(m->x, v.x), times(m->y, v.y)), times(m->z, v.z)); }
static vec in(const mat *m, vec v) { return (vec){dot(m->x, v), dot(m->y, v), dot(m->z, v)}; }

static vec at_most(vec a, double most) {
	double l = flat(a);
	if (l > most) {
		double k = most / l;
		a.x *= k, a.y *= k;
	}
	return a;
}

static vec ahead(double heading, double forward, double right) {
	double s, c;
	if (forward == 0 && right == 0) return (vec){0, 0, 0};
	sin_cos(heading, &s, &c);
	return (vec){forward * s + right * c, forward * c - right * s, 0};
}

static double wrap(double a) {
	if (a > -M_PI && a <= M_PI) return a;
	a -= 2 * M_PI * floor((a + M_PI) / (2 * M_PI));
	if (a <= -M_PI) a += 2 * M_PI;
	return a;
}

static double expo(double v) {
	v = clamp(v, -1, 1);
	if (fabs(v) <= 0.04) return 0;
	return copysign((fabs(v) - 0.04) / (1 - 0.04), v);
}

/* ---- the flight ---- */

static struct {
	int64_t tick;
	vec pos, vel, rate, air, home;
	double w, x, y, z;
	double rotor[ROTORS], charge, volts, amps, used, supply, inflow, downFor;
	double along, across, acrossMemory, up, upMemory;
	double wanderX, wanderY, wanderZ, wash, skidX, skidY, heldX, heldY;
	int low, holding, heightHeld, turning, armed, warned, wasOver;
	double askX, askY, leanX, leanY, lift, trimX, trimY, trimZ, holdX, holdY, holdZ, holdHeading;
	double pack, inside, electronics, driveLoss, done, spun;
} s;

typedef struct { vec at, vel; double height, heading, nose; int near; } sensed;

static void attitude(mat *m) {
	double xx = s.x * s.x, yy = s.y * s.y, zz = s.z * s.z, xy = s.x * s.y, xz = s.x * s.z, yz = s.y * s.z, wx = s.w * s.x,
		wy = s.w * s.y, wz = s.w * s.z;
	m->x = (vec){1 - 2 * (yy + zz), 2 * (xy + wz), 2 * (xz - wy)};
	m->y = (vec){2 * (xy - wz), 1 - 2 * (xx + zz), 2 * (yz + wx)};
	m->z = (vec){2 * (xz + wy), 2 * (yz - wx), 1 - 2 * (xx + yy)};
}

static double legs(void) { return 0.3 * p.span; }
static double feet_height(void) { return s.pos.z - legs(); }

static void second(double *value, double *memory, double sigma, double len, double v, double dt, double noise_) {
	double k = v / len, from = noise_ * normal(&gust_rand), a = *memory + dt * (from - k * *memory);
	*memory = a;
	double push = sigma * sqrt(k) * (k * a + sqrt(3) * (from - k * a));
	*value += dt * (push - k * *value);
}

static void gust(double z, double speed, double dt) {
	double h = clamp(z, 3, 300) / 0.3048, v = greater(speed, 2), base = 0.177 + 0.000823 * h;
	double up = 0.1 * (15 * p.gusts * 0.514444), log = lg(base), along = up / ex(0.4 * log), lengthUp = h * 0.3048;
	double len = h / ex(1.2 * log) * 0.3048, white = 1 / sqrt(dt), k = v / len;
	double push = along * sqrt(2 * k) * (white * normal(&gust_rand));
	s.along += dt * (push - k * s.along);
	second(&s.across, &s.acrossMemory, along, len, v, dt, white);
	second(&s.up, &s.upMemory, up, lengthUp, v, dt, white);
}

static void blow(void) {
	double feet = feet_height();
	if (s.tick % 10 == 0) gust(feet, length(sub(s.vel, s.air)), 10 * p.dt);
	if (s.tick % 5 != 0) return;
	double along = s.along;
	if (p.windMps > 0) along += p.windMps * (lg((greater(0, feet) + p.roughness) / p.roughness) / p.meanLog);
	s.air = (vec){p.windToX * along + p.windToY * s.across, p.windToY * along - p.windToX * s.across, s.up};
}

static double margin;

static void hear(void) {
	if (s.tick % 50 != 0) return;
	vec to = sub(s.pos, (vec){0, 0, 1.6});
	margin = 20 * (lg(1500 / greater(1, length(to))) / M_LN10);
}

static double cushion(double feet) {
	double h = (feet + legs()) / p.radius;
	return clamp((6 - h) / 5, 0, 1);
}

static void drift(double *v, double push, double time, double dt) { *v += dt * (-*v / time) + push * normal(&noise); }

static double heading(const mat *m) {
	if (fabs(m->y.x) + fabs(m->y.y) < 1e-9) return arc_tan2(-m->z.x, -m->z.y);
	return arc_tan2(m->y.x, m->y.y);
}

static void sense(sensed *e, const mat *m) {
	if (s.tick % 5 == 0) {
		double dt = 5 * p.dt;
		drift(&s.wanderX, p.driftFix, 60, dt);
		drift(&s.wanderY, p.driftFix, 60, dt);
		drift(&s.wanderZ, p.driftHeight, 20, dt);
		drift(&s.wash, p.driftWash, 0.7, dt);
		drift(&s.skidX, p.driftSkid, 0.5, dt);
		drift(&s.skidY, p.driftSkid, 0.5, dt);
	}
	double feet = feet_height();
	e->near = p.down != 0 && feet < 5;
	e->at = s.pos, e->vel = s.vel, e->height = feet, e->nose = heading(m), e->heading = wrap(e->nose + 0);
	if (e->near && !s.low)
		s.low = 1, s.heldX = s.wanderX, s.heldY = s.wanderY;
	else if (!e->near)
		s.low = 0;
	if (s.low) {
		e->at.x += s.heldX;
		e->at.y += s.heldY;
	} else {
		e->at.x += s.wanderX;
		e->at.y += s.wanderY;
		e->height += s.wanderZ + 0.25 * s.wash * cushion(feet);
	}
}

typedef struct { double throttle, yaw, pitch, roll; } sticks;

/* The pack runs low and the sticks stop the motors on the ground: neither comes about here, but both are looked at. */
static void watch(const sticks *k) {
	if (s.armed && s.charge < 0.15 && !s.warned) s.warned = 1;
	if (k->throttle > -0.9) s.wasOver = s.wasOver || s.armed;
	if (!(k->throttle <= -0.97)) s.downFor = 0;
}

static vec turn(vec rates) {
	vec miss = sub(rates, s.rate);
	double k = 0.5 * p.rate * p.dt;
	s.trimX = clamp(s.trimX + k * miss.x, -60, 60);
	s.trimY = clamp(s.trimY + k * miss.y, -60, 60);
	s.trimZ = clamp(s.trimZ + k * miss.z, -20, 20);
	return (vec){p.inertiaX * (p.rate * miss.x + s.trimX), p.inertiaY * (p.rate * miss.y + s.trimY),
		p.inertiaZ * (0.7 * p.rate * miss.z + s.trimZ)};
}

static vec held_push(const sensed *e, vec want) {
	double step = p.limBrake * p.dt;
	vec change = at_most((vec){want.x - s.askX, want.y - s.askY, 0}, step);
	s.askX += change.x, s.askY += change.y;
	vec ask = {s.askX, s.askY, 0};
	if (want.x == 0 && want.y == 0 && flat(ask) < 0.05) {
		if (!s.holding && flat(e->vel) < 0.5) s.holding = 1, s.holdX = e->at.x, s.holdY = e->at.y;
	} else {
		s.holding = 0;
	}
	if (s.holding)
		ask = at_most((vec){p.place * (s.holdX - e->at.x), p.place * (s.holdY - e->at.y), 0}, greater(1, 0.5 * p.limSpeed));
	vec miss = {ask.x - e->vel.x, ask.y - e->vel.y, 0};
	double most = 9.80665 * lesser(p.limLean, 0.7);
	s.leanX = clamp(s.leanX + 0.35 * p.place * (p.speed * p.dt) * miss.x, -most, most);
	s.leanY = clamp(s.leanY + 0.35 * p.place * (p.speed * p.dt) * miss.y, -most, most);
	return at_most((vec){p.speed * miss.x + s.leanX, p.speed * miss.y + s.leanY, 0}, most);
}

static vec levelling(vec v) {
	double l = flat(v), r;
	if (l > 1e-9) {
		if (l < 0.2 && v.z > 0) {
			double ll = l * l;
			r = p.lean * (1 + ll * (1.0 / 6 + ll * (3.0 / 40)));
		} else {
			r = p.lean * lesser(1.5, arc_tan2(l, v.z)) / l;
		}
		return (vec){-(r * v.y), r * v.x, 0};
	}
	return (vec){0, v.z < 0 ? p.lean * 1.5 : 0, 0};
}

static double yawing(double yaw, const sensed *e) {
	if (yaw != 0) {
		s.turning = 1;
		return -(p.limYaw * yaw);
	}
	if (s.turning && fabs(s.rate.z) < 0.35) s.turning = 0, s.holdHeading = e->heading;
	return s.turning ? 0 : -clamp(3 * wrap(s.holdHeading - e->heading), -3, 3);
}

static double climbing(double throttle, const sensed *e) {
	if (throttle != 0) {
		s.heightHeld = 0;
		return (throttle < 0 ? p.limDescend : p.limClimb) * throttle;
	}
	if (!s.heightHeld && fabs(e->vel.z) < 0.3) s.heightHeld = 1, s.holdZ = e->height;
	return s.heightHeld ? clamp(p.height * (s.holdZ - e->height), -p.limDescend, p.limClimb) : 0;
}

static void fly(double *thrust, vec *torque, const sticks *k, const sensed *e, const mat *m) {
	double throttle = expo(k->throttle), yaw = expo(k->yaw), pitch = expo(k->pitch), roll = expo(k->roll);
	double astray = wrap(e->nose - e->heading);
	vec push = held_push(e, at_most(ahead(e->heading, p.limSpeed * pitch, p.limSpeed * roll), p.limSpeed));
	if (astray != 0) exit(3);
	vec up = {push.x, push.y, 9.80665};
	up = times(up, 1 / length(up));
	vec rates = levelling(in(m, up));
	rates.z = yawing(yaw, e);
	*torque = turn(rates);
	double climb = climbing(throttle, e), ask = p.climb * (climb - e->vel.z);
	s.lift = clamp(s.lift + 0.5 * p.height * ask * p.dt, -4, 6);
	*thrust = p.mass * (9.80665 + clamp(ask + s.lift, -0.6 * 9.80665, 9.80665)) / clamp(m->z.z, 0.5, 1);
}

static void share(double *want, double thrust, vec torque, double low, double high) {
	double lean[ROTORS], yaw[ROTORS], least = 0, most = 0, shift = 0, k = 1;
	int n = (int)p.n;
	for (int i = 0; i < n; i++) {
		lean[i] = p.inverse1[i] * torque.x + p.inverse2[i] * torque.y;
		yaw[i] = p.inverse3[i] * torque.z;
		least = lesser(least, lean[i]), most = greater(most, lean[i]);
	}
	double room = high - low;
	if (most - least > room) {
		double by = room / (most - least);
		for (int i = 0; i < n; i++) lean[i] *= by;
	}
	for (int i = 0; i < n; i++) {
		double b = p.inverse0[i] * thrust + lean[i];
		lean[i] = b;
		if (i == 0) least = most = b;
		least = lesser(least, b), most = greater(most, b);
	}
	if (least < low)
		shift = low - least;
	else if (most > high)
		shift = high - most;
	for (int i = 0; i < n; i++) {
		double b = lean[i] + shift;
		want[i] = b;
		if (yaw[i] > 0 && b + yaw[i] > high)
			k = lesser(k, (high - b) / yaw[i]);
		else if (yaw[i] < 0 && b + yaw[i] < low)
			k = lesser(k, (low - b) / yaw[i]);
	}
	k = greater(0, k);
	for (int i = 0; i < n; i++) want[i] = clamp(want[i] + k * yaw[i], low, high);
}

static void command(double *want, const sticks *k, const sensed *e, const mat *m) {
	s.supply += p.supplyStep * (s.volts - s.supply);
	double most = p.mostOmega * clamp(s.supply / p.fullVolts, 0.3, 1), low = p.kThrust * p.idle * p.idle,
		high = p.kThrust * most * most, thrust;
	vec torque;
	fly(&thrust, &torque, k, e, m);
	share(want, thrust, torque, low, high);
	for (int i = 0; i < (int)p.n; i++) {
		double w = sqrt(want[i] / p.kThrust);
		want[i] = clamp(s.rotor[i] + 2 * (w - s.rotor[i]), 0, most);
	}
}

static double ground_effect(double height) {
	double z = height / p.radius;
	if (z >= 6) return 1;
	double q = 0.25 / greater(0.5, z), g = 1 / (1 - q * q) - 1;
	return 1 + g * clamp((6 - z) / 3, 0, 1);
}

static double settling(double down, double along) {
	if (down <= 0.4 || down >= 2) return 0;
	double t = down < 1.1 ? (down - 0.4) / 0.7 : (2 - down) / 0.9, loss = t * t * (3 - 2 * t);
	return 0.4 * loss * clamp((1.2 - along) / 0.7, 0, 1);
}

static double rotors(const double *want, vec air, const mat *m, vec *force, vec *torque) {
	double along = sqrt(air.x * air.x + air.y * air.y), climb = air.z, hover = p.hoverInflow;
	double near = ground_effect(greater(0, feet_height()) * greater(0.2, m->z.z) + legs());
	if (m->z.z < 0.3) near = 1;
	double loss = settling(-climb / hover, along / hover), total = 0, spin = 0, answer = 0, slope = 0, shaft = 0;
	if (p.hoverPitch > 0) slope = (0.5 * 2 * M_PI / 1.25) / p.hoverPitch, answer = (hover - s.inflow - climb) * slope;
	double kept = near * (1 - loss), done = s.done, spun = s.spun;
	*force = *torque = (vec){0, 0, 0};
	for (int i = 0; i < (int)p.n; i++) {
		double before = s.rotor[i], w = before + p.lagStep * (want[i] - before), ww = w * w, bend = 1;
		s.rotor[i] = w;
		if (w > 1) {
			double own = s.rate.x * p.mixY[i] - s.rate.y * p.mixX[i];
			bend = clamp(1 + (answer - slope * own) / w, 0.3, 1.6);
		}
		double t = (p.thrust * ww) * ((bend * kept) * p.weak[i]), q = p.drag * ww;
		total += t;
		force->z += t;
		torque->x += p.mixY[i] * t;
		torque->y -= p.mixX[i] * t;
		double change = p.inertiaStep * (w - before), sign = p.clockwise[i];
		torque->z += sign * (q + change);
		spin -= sign * (p.rotorInertia * w);
		double aero = q * w;
		shaft += greater(0, aero + change * w);
		done += p.dt * aero;
		spun += p.dt * greater(change * w, -aero);
	}
	s.done = done, s.spun = spun;
	torque->z -= p.draw * s.rate.z;
	torque->x -= s.rate.y * spin;
	torque->y += s.rate.x * spin;
	double before = greater(0.05, s.inflow), thru = before + greater(-0.5 * before, climb);
	double target = total / p.throughput / greater(0.05, sqrt(along * along + thru * thru));
	s.inflow += p.inflowStep * (clamp(target, 0, 3 * hover + 1) - s.inflow);
	return shaft;
}

static double rest(double charge) {
	double at = clamp(charge, 0, 1) * 10;
	int i = (int)at;
	if (i > 9) i = 9;
	return p.cells * (p.curve[i] + (at - i) * (p.curve[i + 1] - p.curve[i]));
}

static void draw(double shaft) {
	double drive = shaft / p.drive, power = drive + p.electronics, e = rest(s.charge), r = p.packOhm, volts, amps;
	if (r == 0) {
		volts = e, amps = power / e;
	} else {
		double root = e * e - 4 * (r * power);
		if (root < 0)
			volts = 0.5 * e, amps = e / (2 * r);
		else
			amps = (e - sqrt(root)) / (2 * r), volts = e - amps * r;
	}
	double got = volts * amps, used = amps * p.dt / 3600;
	s.volts = volts, s.amps = amps;
	s.used += used;
	s.charge = greater(0, s.charge - used / p.capacity);
	s.pack += rest(s.charge) * amps * p.dt;
	s.inside += amps * amps * r * p.dt;
	s.electronics += p.electronics * p.dt;
	s.driveLoss += (got - p.electronics - shaft) * p.dt;
	if (s.charge == 0 || (volts < p.cells * p.emptyVolts && s.charge < 0.1)) s.armed = 0;
}

static void turned(void) {
	vec h = times(s.rate, 0.5 * p.dt);
	double q = dot(h, h), w = 1 - 0.5 * q + q * q / 24;
	vec v = times(h, 1 - q / 6 + q * q / 120);
	double a = s.w * w - s.x * v.x - s.y * v.y - s.z * v.z, b = s.w * v.x + s.x * w + s.y * v.z - s.z * v.y,
		c = s.w * v.y - s.x * v.z + s.y * w + s.z * v.x, d = s.w * v.z + s.x * v.y - s.y * v.x + s.z * w;
	double k = 1 / sqrt(a * a + b * b + c * c + d * d);
	s.w = a * k, s.x = b * k, s.y = c * k, s.z = d * k;
}

static void move(vec force, vec torque) {
	s.vel = add(s.vel, times(force, p.perMass));
	s.pos = add(s.pos, times(s.vel, p.dt));
	vec spin = cross(s.rate, (vec){p.inertiaX * s.rate.x, p.inertiaY * s.rate.y, p.inertiaZ * s.rate.z});
	torque = sub(torque, spin);
	s.rate = add(s.rate, (vec){torque.x * p.dt / p.inertiaX, torque.y * p.dt / p.inertiaY, torque.z * p.dt / p.inertiaZ});
	s.rate = (vec){clamp(s.rate.x, -60, 60), clamp(s.rate.y, -60, 60), clamp(s.rate.z, -60, 60)};
	turned();
}

static void step(const sticks *k) {
	mat m;
	sensed e;
	double want[ROTORS] = {0};
	vec force, torque;
	attitude(&m);
	blow();
	hear();
	sense(&e, &m);
	watch(k);
	command(want, k, &e, &m);
	vec air = in(&m, sub(s.vel, s.air));
	double shaft = rotors(want, air, &m, &force, &torque);
	double kDrag = p.mass * p.rotorDrag, b = 0.5 * (p.density * (p.bodyDrag * length(air)));
	force = out(&m, add(force, (vec){-((kDrag + b) * air.x), -((kDrag + b) * air.y), -(b * air.z)}));
	force.z -= p.mass * 9.80665;
	double near = cushion(feet_height());
	force = add(force, times((vec){near * s.skidX, near * s.skidY, 0}, p.mass));
	draw(shaft);
	move(force, torque);
	if (s.pos.z - legs() - 0.3 * p.span <= 0.02 || s.pos.z <= 0.5 * p.span + p.radius + legs()) exit(3); /* the ground */
	s.tick++;
}

static void begin(void) {
	memset(&s, 0, sizeof s);
	s.pos = (vec){p.posX, p.posY, p.posZ}, s.vel = (vec){p.velX, p.velY, p.velZ}, s.rate = (vec){p.rateX, p.rateY, p.rateZ};
	s.w = p.attW, s.x = p.attX, s.y = p.attY, s.z = p.attZ;
	s.charge = p.charge, s.volts = p.volts, s.supply = p.supply, s.inflow = p.inflow;
	s.air = (vec){p.airX, p.airY, p.airZ};
	s.leanX = p.leanX, s.leanY = p.leanY, s.lift = p.lift, s.holdX = p.holdX, s.holdY = p.holdY, s.holdZ = p.holdZ;
	s.holding = s.heightHeld = s.armed = s.wasOver = 1, s.holdHeading = p.holdHeading;
	for (int i = 0; i < ROTORS; i++) s.rotor[i] = i < (int)p.n ? p.weak[8] : 0;
	gust_rand = (source){seeds[0], seeds[1], 0, 0}, noise = (source){seeds[2], seeds[3], 0, 0};
}

int main(int argc, char **argv) {
	long times_ = argc > 1 ? atol(argv[1]) : 1;
	numbers();
	sticks k = {0, p.yaw, p.pitch, 0};
	struct timespec from, to;
	clock_gettime(CLOCK_MONOTONIC, &from);
	for (long t = 0; t < times_; t++) {
		begin();
		for (long i = 0; i < (long)p.ticks; i++) step(&k);
	}
	clock_gettime(CLOCK_MONOTONIC, &to);
	double ns = (double)(to.tv_sec - from.tv_sec) * 1e9 + (double)(to.tv_nsec - from.tv_nsec);
	double said[] = {s.pos.x, s.pos.y, s.pos.z, s.vel.x, s.vel.y, s.vel.z, s.rate.x, s.rate.y, s.rate.z, s.w, s.x, s.y, s.z,
		s.rotor[0], s.rotor[1], s.rotor[2], s.rotor[3], s.charge, s.volts, s.amps, s.used, s.air.x, s.air.y, s.air.z,
		s.wanderX, s.wanderY, s.wanderZ, s.wash, s.skidX, s.skidY, s.inflow, s.supply, margin, s.pack, s.inside,
		s.electronics, s.driveLoss, s.done, s.spun};
	for (size_t i = 0; i < sizeof said / sizeof said[0]; i++) {
		uint64_t b;
		memcpy(&b, &said[i], 8);
		printf("%016lx\n", b);
	}
	printf("%.1f\n", ns / ((double)times_ * p.ticks));
	return 0;
}

/* The march of src/valvetrain/kernels/valve_motion.py a second time, for a C compiler: how far is the compiled Python from it?
   Same state, same rows, same lanes; without the trace. */
#define LANES 16
#define ROW LANES
#define NODE (5 * ROW)
#define FAR_OFF 1e9
static inline double max0(double a) { return a > 0.0 ? a : 0.0; }
void march(double *restrict s, const double *restrict springs, long count, const double *restrict train, const double *restrict lift,
           const double *restrict zone, long nodes, long steps, long cycles) {
  double *y = s, *v = s + ROW, *force = s + 2 * ROW, *weight = s + 3 * ROW, *hc = s + 4 * ROW, *hs = s + 5 * ROW, *gap = s + 6 * ROW,
         *lost = s + 7 * ROW, *seating = s + 8 * ROW, *bounce = s + 9 * ROW, *most = s + 10 * ROW, *least = s + 11 * ROW,
         *seat_most = s + 12 * ROW, *work = s + 13 * ROW;
  const double kc = train[0], ks = train[1], fade = train[2], loss = train[3];
  long nose = 0;
  for (long i = 1; i < steps; i++) if (lift[i] > lift[nose]) nose = i;
  double before = lift[steps - 1];
  for (long turn = 0; turn < cycles; turn++) {
    if (turn == cycles - 1)
      for (int l = 0; l < LANES; l++) {
        gap[l] = seating[l] = bounce[l] = most[l] = seat_most[l] = work[l] = 0.0;
        lost[l] = least[l] = FAR_OFF;
      }
    for (long i = 0; i < steps; i++) {
      const double h = lift[i], rise = h - before, counts = zone[i];
      before = h;
      for (int l = 0; l < LANES; l++) force[l] = 0.0;
      for (long n = 0; n < count; n++) {
        const double k = springs[5 * n], b = springs[5 * n + 1], room = springs[5 * n + 2], clash = springs[5 * n + 3], pre = springs[5 * n + 4];
        double *top = s + 14 * ROW + n * (nodes + 2) * NODE, link[LANES];
        for (int l = 0; l < LANES; l++) {
          const double d = y[l] - top[NODE + l], dv = v[l] - top[NODE + ROW + l];
          link[l] = max0(pre + d * (k + b * max0(d)) + top[4 * ROW + l] * dv + clash * max0(d - room));
          force[l] += link[l];
        }
        for (long j = 1; j <= nodes; j++) {
          double *q = top + j * NODE, *r = q + NODE;
          for (int l = 0; l < LANES; l++) {
            const double x = q[l], w = q[ROW + l], d = x - r[l], dv = w - r[ROW + l];
            double f = pre + d * (k + b * max0(d)) + q[4 * ROW + l] * dv + clash * max0(d - room);
            f = j == nodes ? max0(f) : f;
            const double t = w + q[3 * ROW + l] * (link[l] - f);
            link[l] = f;
            q[ROW + l] = t;
            q[l] = x + t;
          }
        }
      }
      const double late = i >= nose, clear = h < 0.0 && i >= nose, ignored = counts > 0.0 ? 0.0 : FAR_OFF, place = (double)i;
      for (int l = 0; l < LANES; l++) {
        const double x = y[l], w = v[l], press = max0(h - x), sunk = max0(-x);
        const double p = press * fade, q = sunk * fade;
        const double push = max0(kc * press + hc[l] * (p < 1.0 ? p : 1.0) * (rise - w));
        const double stop = max0(ks * sunk - hs[l] * (q < 1.0 ? q : 1.0) * w);
        const double apart = (x - h) * counts, to = x + w + weight[l] * (push + stop - force[l]), t = to - x;
        const double at = apart > loss ? place : FAR_OFF, hit = (x > 0.0 && to <= 0.0) ? t * late : 0.0, old = seating[l];
        gap[l] = apart > gap[l] ? apart : gap[l];
        lost[l] = at < lost[l] ? at : lost[l];
        most[l] = push > most[l] ? push : most[l];
        least[l] = push + ignored < least[l] ? push + ignored : least[l];
        seat_most[l] = stop > seat_most[l] ? stop : seat_most[l];
        work[l] += push * rise;
        const double up = old < 0.0 ? to * clear : 0.0;
        seating[l] = old < 0.0 ? old : hit;
        bounce[l] = up > bounce[l] ? up : bounce[l];
        v[l] = t;
        y[l] = to;
      }
    }
  }
}

// How a machine moves under a hand. Coordinates of members are angles, of racks ways [mm], all from where the roll
// begins. A mesh lets its driven go so far beyond the even ratio, and no further:
//   lower(φ) ≤ ψ − ratio φ ≤ upper(φ),   φ, ψ sums of members' coordinates, limits as its roll found them.
// One member is moved, some are held; of the others each moves as little as all limits together let it, weighed by
// inertia (Gauss's principle of least constraint, from rest). What carries the load waits until nothing else gives way.
class Mechanism {
  constructor({ members, meshes, ends }) {
    this.members = members;
    // The end of a rack is a limit like any other, of one member alone.
    this.meshes = meshes.concat(ends.map(([m, low, high]) => ({ name: 'the end of ' + members[m].name, driver: [], driven: [[m, 1]], ratio: 0, period: 1, lower: [low], upper: [high] })));
    this.q = members.map(() => 0);
    this.held = new Set(); this.loaded = null;
    this.pushing = this.meshes.map(() => 0);  // 1 at its lower limit, the driven pushed forward; -1 at its upper one
    this.stopped = null;                 // the mesh that stands in the way
    const most = Math.max(...members.map(m => m.inertia));
    this.ease = members.map(m => most / Math.max(m.inertia, 1e-4 * most));
    this.rows = this.meshes.map(mesh => {
      const times = new Map();
      for (const [m, t] of mesh.driven) times.set(m, (times.get(m) || 0) + t);
      for (const [m, t] of mesh.driver) times.set(m, (times.get(m) || 0) - mesh.ratio * t);
      return [...times];
    });
  }
  /** A table over the period at φ: one number, or as many as there were positions; null where nothing stops it. */
  static read(table, share) {
    if (table.length === 1) return table[0];
    const at = share * table.length, i = Math.floor(at) % table.length, a = table[i], b = table[(i + 1) % table.length];
    return a === null || b === null ? null : a + (b - a) * (at - Math.floor(at));
  }
  static sum(terms, q) { let s = 0; for (const [m, t] of terms) s += t * q[m]; return s; }
  share(k, q, ahead = 0) {
    const turns = (Mechanism.sum(this.meshes[k].driver, q) + ahead) / this.meshes[k].period;
    return Math.min(Math.max(0, turns - Math.floor(turns + 1e-12)), 1 - 1e-12);
  }
  /** Where the driven of a mesh stands beyond the even ratio. */
  beyond(k, q = this.q) { return Mechanism.sum(this.rows[k], q); }
  /** Its limits there; teeth that overlap stand in the middle. */
  limits(k, q = this.q, ahead = 0) {
    const share = this.share(k, q, ahead), low = Mechanism.read(this.meshes[k].lower, share), high = Mechanism.read(this.meshes[k].upper, share);
    if (low !== null && high !== null && low > high) return [(low + high) / 2, (low + high) / 2];
    return [low === null ? -Infinity : low, high === null ? Infinity : high];
  }

  /** Moves a member to a coordinate, and everything that has to give way. False, and nothing moved, where nothing can. */
  turn(member, to) {
    if (this.held.has(member)) return false;
    const waits = this.loaded !== null && this.loaded !== member && !this.held.has(this.loaded);
    return (waits && this.settle(member, to, this.loaded)) || this.settle(member, to, null);
  }
  settle(member, to, waiting) {
    const from = this.q.slice(), pushing = this.pushing.slice();
    from[member] = to;
    let q = from;
    for (let round = 0; round < 4; round++) {  // limits depend on where their driver comes to stand
      const step = this.leastStep(from, q, m => m !== member && m !== waiting && !this.held.has(m));
      if (!step) { this.pushing = pushing; return false; }
      const off = Math.max(...step.map((v, m) => Math.abs(from[m] + v - q[m]) / this.members[m].unit));
      q = from.map((v, m) => v + step[m]);
      if (off < 1e-13) break;
    }
    this.q = q; this.stopped = null;
    return true;
  }

  /** The least step from `from` that all limits at `at` allow: the dual method of active sets (Goldfarb, Idnani). */
  leastStep(from, at, free) {
    const bounds = this.rows.map((row, k) => {
      const [low, high] = this.limits(k, at), e = Mechanism.sum(row, from);
      return { k, row: row.filter(([m]) => free(m)), low: low - e, high: high - e };
    });
    const normal = c => bounds[c.k].row, goal = c => c.side > 0 ? bounds[c.k].low : -bounds[c.k].high;
    const product = (a, b) => {
      let s = 0;
      for (const [m, t] of normal(a)) for (const [n, u] of normal(b)) if (m === n) s += t * u * this.ease[m];
      return s * a.side * b.side;
    };
    const step = x => { const v = this.q.map(() => 0); x.forEach(({ c, force }) => { for (const [m, t] of normal(c)) v[m] += force * c.side * t * this.ease[m]; }); return v; };
    const reached = (c, v) => c.side * Mechanism.sum(normal(c), v);
    // What pushed before probably pushes again.
    let active = [];
    this.pushing.forEach((side, k) => { if (side && bounds[k].row.length) active.push({ c: { k, side }, force: 0 }); });
    while (active.length) {
      const force = solve(active.map(a => active.map(b => product(a.c, b.c))), active.map(a => goal(a.c)));
      if (!force) { active = []; break; }
      active.forEach((a, i) => { a.force = force[i]; });
      const stay = active.filter(a => a.force >= 0);
      if (stay.length === active.length) break;
      active = stay;
    }
    let v = step(active);
    for (let round = 0; round < 8 * bounds.length + 8; round++) {
      let worst = null, most = 0;
      for (const b of bounds) {
        const e = Mechanism.sum(b.row, v), size = Math.max(1e-9, ...b.row.map(([, t]) => Math.abs(t))), room = 1e-12 * size + 1e-13;
        for (const [side, miss] of [[1, b.low - e], [-1, e - b.high]]) {
          if (miss <= room || active.some(a => a.c.k === b.k && a.c.side === side)) continue;
          if (!b.row.length) {
            if (miss < 1e-9) continue;
            this.stopped = this.meshes[b.k].name;
            return null;
          }
          if (miss / size > most) { most = miss / size; worst = { k: b.k, side }; }
        }
      }
      if (!worst) {
        this.pushing = this.meshes.map(() => 0);
        for (const a of active) if (a.force > 0) this.pushing[a.c.k] = a.c.side;
        return v;
      }
      let added = 0;
      for (let inner = 0; inner <= active.length + 1; inner++) {
        const back = active.length ? solve(active.map(a => active.map(b => product(a.c, b.c))), active.map(a => product(a.c, worst))) : [];
        if (!back) return null;
        const way = step([{ c: worst, force: 1 }, ...active.map((a, i) => ({ c: a.c, force: -back[i] }))]);
        const gain = reached(worst, way), own = product(worst, worst), can = gain > 1e-9 * own;
        let most = Infinity, leaves = -1;
        active.forEach((a, i) => { if (back[i] > 1e-12 && a.force / back[i] < most) { most = a.force / back[i]; leaves = i; } });
        const full = can ? (goal(worst) - reached(worst, v)) / gain : Infinity, size = Math.min(most, full);
        if (size === Infinity) { this.stopped = this.meshes[worst.k].name; return null; }
        if (can) v = v.map((x, m) => x + size * way[m]);
        active.forEach((a, i) => { a.force -= size * back[i]; });
        added += size;
        if (size === full) { active.push({ c: worst, force: added }); break; }
        active.splice(leaves, 1);
      }
    }
    return null;
  }

  /** What touches in a mesh, for each place around a carrier: {round: turned so far about it, flat: x, y, z, x …}. */
  touching(k, within) {
    const mesh = this.meshes[k], all = [];
    for (const [round, driver, driven] of mesh.copies || [[0, 0, 0]]) {
      const [low, high] = this.limits(k, this.q, driver), e = this.beyond(k) + driven - mesh.ratio * driver;
      const on = Math.abs(e - high) * mesh.arm < within ? 'upper_at' : Math.abs(e - low) * mesh.arm < within ? 'lower_at' : null;
      if (on && mesh[on].length) all.push({ round, flat: Mechanism.between(mesh[on], this.share(k, this.q, driver), mesh.step, mesh.lines ? 6 : 3) });
    }
    return all;
  }
  /** Places between two positions of a table: of what touches at both. Items are points, or pairs of them. */
  static between(table, share, step, width) {
    const at = share * table.length, i = Math.floor(at) % table.length, a = table[i], b = table[(i + 1) % table.length], f = at - Math.floor(at), all = [];
    for (let n = 0; n < a.length; n += width) {
      let nearest = -1, least = step;
      for (let m = 0; m < b.length; m += width) {
        let off = 0;
        for (let c = 0; c < width; c++) off = Math.max(off, Math.abs(a[n + c] - b[m + c]));
        if (off < least) { least = off; nearest = m; }
      }
      if (nearest >= 0) for (let c = 0; c < width; c++) all.push(a[n + c] + (b[nearest + c] - a[n + c]) * f);
    }
    return all;
  }
  /** How far a reducer's disc stands beyond the even ratio: as the output does, as far as the rollers let it. */
  discBeyond(k, disc) {
    const share = this.share(k, this.q), d = this.meshes[k].discs[disc], low = Mechanism.read(d.lower, share), high = Mechanism.read(d.upper, share);
    const e = this.beyond(k);
    if (low !== null && high !== null && low > high) return (low + high) / 2;
    return Math.min(high === null ? e : high, Math.max(low === null ? e : low, e));
  }
}

/** Elimination with pivots; null where an equation says nothing that the others do not. */
function solve(a, b) {
  const n = b.length, rows = a.map((r, i) => [...r, b[i]]);
  for (let i = 0; i < n; i++) {
    let p = i;
    for (let r = i + 1; r < n; r++) if (Math.abs(rows[r][i]) > Math.abs(rows[p][i])) p = r;
    if (Math.abs(rows[p][i]) < 1e-12 * Math.abs(a[p][p] || 1)) return null;
    [rows[i], rows[p]] = [rows[p], rows[i]];
    for (let r = i + 1; r < n; r++) {
      const f = rows[r][i] / rows[i][i];
      if (f) for (let c = i; c <= n; c++) rows[r][c] -= f * rows[i][c];
    }
  }
  const x = new Array(n).fill(0);
  for (let i = n - 1; i >= 0; i--) {
    let s = rows[i][n];
    for (let c = i + 1; c < n; c++) s -= rows[i][c] * x[c];
    x[i] = s / rows[i][i];
  }
  return x;
}

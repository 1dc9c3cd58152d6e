// Numbers moved while the teeth turn. Every step was resolved by palio; nothing is computed here but the turning.
const D = JSON.parse(document.getElementById('data').textContent);
const $ = id => document.getElementById(id);
const steps = D.steps, keys = D.keys, shapes = new Map(), several = keys.length > 1;
// The last key runs fastest.
const stride = keys.map((_, k) => keys.slice(k + 1).reduce((n, key) => n * key.values.length, 1));
const indexOf = at => at.reduce((n, i, k) => n + i * stride[k], 0);
const placeOf = index => keys.map((key, k) => Math.floor(index / stride[k]) % key.values.length);
/** The place nearest to the middle that can be made. */
function beginning() {
  const off = i => placeOf(i).reduce((sum, at, k) => sum + Math.abs(at / Math.max(1, keys[k].values.length - 1) - 0.5), 0);
  return steps.reduce((best, s, i) => s.driver && (best < 0 || off(i) < off(best)) ? i : best, -1);
}
const state = { i: beginning(), key: 0, turn: 0, running: true, close: false };
/** The steps along one key, all others as they stand. */
const along = k => { const at = placeOf(state.i); return keys[k].values.map((_, i) => steps[indexOf(at.map((j, n) => n === k ? i : j))]); };
function shapesOf(i) {
  if (!shapes.has(i)) shapes.set(i, [outline(steps[i].driver), outline(steps[i].driven)]);
  return shapes.get(i);
}
function size(canvas) {
  const r = window.devicePixelRatio || 1;
  canvas.width = canvas.clientWidth * r; canvas.height = canvas.clientHeight * r;
  canvas.getContext('2d').setTransform(r, 0, 0, r, 0, 0);
}
const words = what => {
  if (what === 'impossible') return 'cannot be made';
  const [, id, subject] = what.split(' ');
  return id.replaceAll('-', ' ') + ', ' + subject.replace(/^[^.]*\./, '');
};
const doubts = s => s.impossible ? ['impossible'] : s.findings;
/** Where doubts set in along one key: of one key alone found by palio; of several between which two places. */
function limitsOf(k) {
  if (!several) return D.limits.map(l => ({ ...l, from: l.at, to: l.at }));
  const all = [], slice = along(k), values = keys[k].values;
  for (let i = 0; i + 1 < slice.length; i++) {
    const before = doubts(slice[i]), after = doubts(slice[i + 1]), up = values[i + 1] > values[i];
    const add = (what, sets) => all.push({ what, above: sets === up, from: values[i], to: values[i + 1], at: (values[i] + values[i + 1]) / 2 });
    after.filter(d => !before.includes(d)).forEach(d => add(d, true));
    before.filter(d => !after.includes(d)).forEach(d => add(d, false));
  }
  return all;
}
const mm = (v, digits) => `${(v / D.mm_per_unit).toFixed(digits)} ${D.units}`;
function drawGears() {
  const canvas = $('gears'), c = canvas.getContext('2d'), W = canvas.clientWidth, H = canvas.clientHeight, s = steps[state.i];
  c.clearRect(0, 0, W, H);
  if (!s.driver) return;
  const gears = [s.driver, s.driven], [left, right, low, high] = extent(gears);
  let scale = Math.min((W - 420) / (right - left), (H - 20) / (high - low)), cx = (left + right) / 2, cy = (low + high) / 2;
  if (W < 700) scale = Math.min((W - 40) / (right - left), (H - 20) / (high - low));
  if (state.close) {
    const g = gears.find(m => m.sort !== 'rack'), other = gears.find(m => m !== g), towards = Math.atan2(other.y - g.y, other.x - g.x) + (other.sort === 'ring' ? Math.PI : 0);
    const r = g.circles.working / 2;
    cx = g.x + r * Math.cos(towards); cy = g.y + r * Math.sin(towards); scale = Math.min(W, H) / (7 * g.circles.working / g.teeth);
  }
  const toScreen = (x, y) => [W / 2 + (x - cx) * scale, H / 2 - (y - cy) * scale];
  c.save();
  c.translate(W / 2, H / 2); c.scale(scale, -scale); c.translate(-cx, -cy);
  const phi = s.driver.start + state.turn * s.driver.pitch, psi = s.driven.start + s.ratio * (phi - s.driver.start) + s.push, own = shapesOf(state.i);
  for (const i of paintOrder(gears)) paintMember(c, gears[i], own[i], i === 0 ? phi : psi, i, 1 / scale);
  for (const g of gears) paintCircles(c, g, 1 / scale);
  c.strokeStyle = '#1d1d22'; c.lineWidth = 1.8 / scale; c.setLineDash([8 / scale, 4 / scale]);
  for (const chain of s.action || []) {
    c.beginPath();
    for (let i = 0; i < chain.length; i += 2) { if (i) c.lineTo(chain[i], chain[i + 1]); else c.moveTo(chain[i], chain[i + 1]); }
    c.stroke();
  }
  c.setLineDash([]);
  c.restore();
  if (!state.close && W >= 700) {
    for (const i of [0, 1]) paintCircleNames(c, gears, i, { W, scale, toScreen, length: mm });
  }
  if (s.action && s.action.length) {
    const chain = s.action[0], end = toScreen(chain[0], chain[1]), x = Math.min(W - 60, Math.max(60, end[0])), y = Math.min(H - 14, Math.max(14, end[1]));
    paintWords(c, s.action_name, x, y + (y > H / 2 ? 14 : -14), '#1d1d22', 'center');
  }
}
function number(v) { return Number(v.toPrecision(6)).toString(); }
function drawMarks() {
  keys.forEach((key, k) => {
    const canvas = $('marks-' + k), c = canvas.getContext('2d'), W = canvas.clientWidth, H = canvas.clientHeight, first = key.values[0], last = key.values[key.values.length - 1];
    c.clearRect(0, 0, W, H);
    const X = v => 8 + (W - 16) * (v - first) / (last - first || 1), rows = several ? 1 : 3;
    c.font = '11px "DejaVu Sans", system-ui, sans-serif'; c.fillStyle = INK; c.strokeStyle = INK;
    const ends = Array(rows).fill(-1e9);
    limitsOf(k).forEach(l => {
      const x = X(l.at), text = `${words(l.what)} ${l.above ? '▸' : '◂'}`, wide = c.measureText(text).width, from = Math.min(x, W - wide - 2);
      c.lineWidth = 3; c.beginPath(); c.moveTo(X(l.from), 1); c.lineTo(X(l.to), 1); c.stroke(); c.lineWidth = 1;
      const row = ends.findIndex(e => e + 8 < from); if (row < 0) return;
      ends[row] = from + wide;
      c.beginPath(); c.moveTo(x, 0); c.lineTo(x, 6 + 13 * row); c.stroke();
      paintWords(c, text, from, (several ? 10 : 12) + 13 * row, INK, 'left', 11);
    });
  });
}
/** A reading and its value over a chart: with its gear or pair where that has room, smaller where it has to be. */
function heading(c, key, value, x, y, room) {
  const alone = key.replace(/^[^.]*\.[^.]*\./, ''), tries = [[key.replace(/^[^.]*\./, ''), 12], [alone, 12], [alone, 9], [alone, 8]];
  for (const [name, size] of tries) {
    c.font = `${size}px "DejaVu Sans", system-ui, sans-serif`;
    if (c.measureText(`${name}: ${value}`).width > room && size > 8) continue;
    c.fillText(`${name}: ${value}`, x, y);
    return;
  }
}
function drawChart() {
  const canvas = $('chart'), c = canvas.getContext('2d'), W = canvas.clientWidth, H = canvas.clientHeight, n = Math.min(D.shown.length, 6);
  c.clearRect(0, 0, W, H);
  const k0 = state.key, slice = along(k0), values = keys[k0].values, first = values[0], last = values[values.length - 1], limits = limitsOf(k0);
  const columns = Math.min(W < 700 ? 2 : 3, n), rows = Math.ceil(n / columns), w = (W - 36 - 24 * (columns - 1)) / columns, h = (H - 10) / rows;
  for (let k = 0; k < n; k++) {
    const x0 = 18 + (k % columns) * (w + 24), top = 24 + Math.floor(k / columns) * h, bottom = top + h - 40, known = slice.map(s => s.values[k]).filter(v => v !== null);
    let low = Math.min(...known), high = Math.max(...known);
    if (!known.length) { low = 0; high = 1; }
    if (high - low < 1e-9) { low -= 0.5; high += 0.5; }
    const X = v => x0 + w * (v - first) / (last - first || 1), Y = v => bottom - (bottom - top) * (v - low) / (high - low), here = steps[state.i].values[k];
    c.fillStyle = INK;
    heading(c, D.shown[k].key, here === null ? 'none' : number(here) + ' ' + D.shown[k].unit, x0, top - 8, w);
    c.strokeStyle = FAINT; c.lineWidth = 1; c.beginPath(); c.moveTo(x0, bottom); c.lineTo(x0 + w, bottom); c.stroke();
    c.setLineDash([4, 3]);
    for (const l of limits) { c.beginPath(); c.moveTo(X(l.at), top); c.lineTo(X(l.at), bottom); c.stroke(); }
    c.setLineDash([]);
    c.strokeStyle = COLOR[(k + 1) % 2]; c.lineWidth = 2; c.beginPath();
    let pen = false;
    slice.forEach((s, i) => { const v = s.values[k]; if (v === null) { pen = false; return; } if (pen) c.lineTo(X(values[i]), Y(v)); else c.moveTo(X(values[i]), Y(v)); pen = true; });
    c.stroke();
    if (here !== null) { c.fillStyle = '#1d1d22'; c.beginPath(); c.arc(X(steps[state.i].at[k0]), Y(here), 4, 0, 2 * Math.PI); c.fill(); }
    c.fillStyle = '#77756d'; c.font = '10px "DejaVu Sans", system-ui, sans-serif'; c.textAlign = 'right';
    c.fillText(number(high), x0 + w, top + 6); c.fillText(number(low), x0 + w, bottom - 3); c.textAlign = 'left';
  }
}
function say() {
  const s = steps[state.i];
  keys.forEach((_, k) => { $(several ? 'number-' + k : 'number').textContent = number(s.at[k]); $('row-' + k).classList.toggle('active', k === state.key); });
  $('say').textContent = s.impossible ? 'Cannot be made: ' + s.impossible : s.findings.map(f => { const [severity] = f.split(' '); return severity + ': ' + words(f); }).join('\n');
}
function draw() { drawGears(); drawMarks(); drawChart(); say(); }
function choose(i) {
  state.i = i;
  placeOf(i).forEach((at, k) => { $('slider-' + k).value = at; $('slider-' + k).setAttribute('aria-valuetext', number(steps[i].at[k])); });
  draw();
}
/** One number to the place-th of its values, the others as they stand. */
function move(k, place) { state.key = k; choose(indexOf(placeOf(state.i).map((at, n) => n === k ? place : at))); }
function advance(seconds) {
  state.turn = (state.turn + seconds / 2.5) % Math.max(1, steps[state.i].driver ? steps[state.i].driver.teeth * (steps[state.i].driven ? steps[state.i].driven.teeth : 1) : 1);
  drawGears();
}
const short = key => key.split('.').slice(key.startsWith('shared.') ? 0 : 1).join('.');
keys.forEach((key, k) => {
  const make = (tag, fields, parent) => parent.appendChild(Object.assign(document.createElement(tag), fields));
  const row = make('span', { id: 'row-' + k }, $('sliders'));
  const label = make('label', { htmlFor: 'slider-' + k }, row);
  make('span', { className: 'number', id: several ? 'number-' + k : 'number' }, label);
  if (several) make('span', { textContent: short(key.key) }, label);
  const slider = make('input', { type: 'range', id: 'slider-' + k, min: 0, max: key.values.length - 1, step: 1 }, $('sliders'));
  slider.setAttribute('aria-label', key.key);
  slider.oninput = () => move(k, Number(slider.value));
  slider.onfocus = () => { state.key = k; drawChart(); say(); };
  if (k === 0) $('sliders').appendChild($('buttons'));
  const marks = make('canvas', { id: 'marks-' + k, className: 'marks' }, $('sliders'));
  marks.setAttribute('aria-label', 'Where limits of ' + key.key + ' set in');
});
$('sliders').classList.toggle('several', several);
$('run').onclick = () => run(!state.running);
$('close').onclick = () => { state.close = !state.close; $('close').textContent = state.close ? 'Whole' : 'Close up'; drawGears(); };
document.addEventListener('keydown', e => {
  const way = { ArrowLeft: -1, ArrowRight: 1 }[e.key], row = { ArrowUp: -1, ArrowDown: 1 }[e.key];
  if (way) { e.preventDefault(); move(state.key, Math.min(keys[state.key].values.length - 1, Math.max(0, placeOf(state.i)[state.key] + way))); }
  if (row && several) { e.preventDefault(); state.key = (state.key + row + keys.length) % keys.length; $('slider-' + state.key).focus(); drawChart(); say(); }
  if (e.key === ' ' && e.target.tagName !== 'BUTTON') { e.preventDefault(); $('run').click(); }
});
function resize() { for (const canvas of document.querySelectorAll('canvas')) size(canvas); draw(); }
window.addEventListener('resize', resize);
$('what').textContent = (several ? '' : keys[0].key + ', ') + (steps[state.i].pair ? 'pair ' + steps[state.i].pair : '');
choose(state.i); resize(); run(!(window.matchMedia && matchMedia('(prefers-reduced-motion: reduce)').matches));

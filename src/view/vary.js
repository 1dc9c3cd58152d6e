// One number moved while the teeth turn. Every step was resolved by palio; nothing is computed here but the turning.
const D = JSON.parse(document.getElementById('data').textContent);
const $ = id => document.getElementById(id);
const steps = D.steps, shapes = new Map();
const middle = Math.floor(steps.length / 2);
const state = { i: steps[middle].driver ? middle : steps.findIndex(s => s.driver), turn: 0, running: true, close: false };
$('slider').max = steps.length - 1;
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
function drawGears() {
  const canvas = $('gears'), c = canvas.getContext('2d'), W = canvas.clientWidth, H = canvas.clientHeight, s = steps[state.i];
  c.clearRect(0, 0, W, H);
  if (!s.driver) return;
  const gears = [s.driver, s.driven], [left, right, low, high] = extent(gears);
  let scale = Math.min((W - 80) / (right - left), (H - 20) / (high - low)), cx = (left + right) / 2, cy = (low + high) / 2;
  if (state.close) {
    const g = gears.find(m => m.sort !== 'rack'), other = gears.find(m => m !== g), towards = Math.atan2(other.y - g.y, other.x - g.x) + (other.sort === 'ring' ? Math.PI : 0);
    const direction = g.sort === 'ring' ? towards : towards, r = g.circles.working / 2;
    cx = g.x + r * Math.cos(direction); cy = g.y + r * Math.sin(direction); scale = Math.min(W, H) / (7 * g.circles.working / g.teeth * 1);
  }
  c.save();
  c.translate(W / 2, H / 2); c.scale(scale, -scale); c.translate(-cx, -cy);
  const phi = s.driver.start + state.turn * s.driver.pitch, psi = s.driven.start + s.ratio * (phi - s.driver.start) + s.push, own = shapesOf(state.i);
  for (const i of paintOrder(gears)) paintMember(c, gears[i], own[i], i === 0 ? phi : psi, i, 1 / scale);
  for (const g of gears) paintCircles(c, g, 1 / scale);
  c.restore();
}
function number(v) { return Number(v.toPrecision(6)).toString(); }
function drawMarks() {
  const canvas = $('marks'), c = canvas.getContext('2d'), W = canvas.clientWidth, first = steps[0].at, last = steps[steps.length - 1].at;
  c.clearRect(0, 0, W, canvas.clientHeight);
  const X = v => 8 + (W - 16) * (v - first) / (last - first);
  c.font = '11px "DejaVu Sans", system-ui, sans-serif'; c.fillStyle = INK; c.strokeStyle = INK;
  const ends = [-1e9, -1e9, -1e9];
  D.limits.forEach(l => {
    const x = X(l.at), text = `${words(l.what)} ${l.above ? '▸' : '◂'}`, wide = c.measureText(text).width;
    let row = ends.findIndex(e => e + 8 < x); if (row < 0) return;
    const from = Math.min(x, W - wide - 2);
    ends[row] = from + wide;
    c.beginPath(); c.moveTo(x, 0); c.lineTo(x, 6 + 13 * row); c.stroke();
    c.fillText(text, from, 16 + 13 * row);
  });
}
function drawChart() {
  const canvas = $('chart'), c = canvas.getContext('2d'), W = canvas.clientWidth, H = canvas.clientHeight, n = Math.min(D.shown.length, 6);
  c.clearRect(0, 0, W, H);
  const columns = Math.min(3, n), rows = Math.ceil(n / columns), w = (W - 36 - 24 * (columns - 1)) / columns, h = (H - 10) / rows, first = steps[0].at, last = steps[steps.length - 1].at;
  for (let k = 0; k < n; k++) {
    const x0 = 18 + (k % columns) * (w + 24), top = 24 + Math.floor(k / columns) * h, bottom = top + h - 40, known = steps.map(s => s.values[k]).filter(v => v !== null);
    let low = Math.min(...known), high = Math.max(...known);
    if (!known.length) { low = 0; high = 1; }
    if (high - low < 1e-9) { low -= 0.5; high += 0.5; }
    const X = v => x0 + w * (v - first) / (last - first), Y = v => bottom - (bottom - top) * (v - low) / (high - low), here = steps[state.i].values[k];
    c.font = '12px "DejaVu Sans", system-ui, sans-serif'; c.fillStyle = INK;
    c.fillText(`${D.shown[k].key.replace(/^[^.]*\./, '')}: ${here === null ? 'none' : number(here) + ' ' + D.shown[k].unit}`, x0, top - 8);
    c.strokeStyle = FAINT; c.lineWidth = 1; c.beginPath(); c.moveTo(x0, bottom); c.lineTo(x0 + w, bottom); c.stroke();
    c.setLineDash([4, 3]);
    for (const l of D.limits) { c.beginPath(); c.moveTo(X(l.at), top); c.lineTo(X(l.at), bottom); c.stroke(); }
    c.setLineDash([]);
    c.strokeStyle = COLOR[(k + 1) % 2]; c.lineWidth = 2; c.beginPath();
    let pen = false;
    for (const s of steps) { const v = s.values[k]; if (v === null) { pen = false; continue; } if (pen) c.lineTo(X(s.at), Y(v)); else c.moveTo(X(s.at), Y(v)); pen = true; }
    c.stroke();
    if (here !== null) { c.fillStyle = '#1d1d22'; c.beginPath(); c.arc(X(steps[state.i].at), Y(here), 4, 0, 2 * Math.PI); c.fill(); }
    c.fillStyle = '#77756d'; c.font = '10px "DejaVu Sans", system-ui, sans-serif'; c.textAlign = 'right';
    c.fillText(number(high), x0 + w, top + 6); c.fillText(number(low), x0 + w, bottom - 3); c.textAlign = 'left';
  }
}
function say() {
  const s = steps[state.i];
  $('number').textContent = number(s.at);
  $('say').textContent = s.impossible ? 'Cannot be made: ' + s.impossible : s.findings.map(f => { const [severity] = f.split(' '); return severity + ': ' + words(f); }).join('\n');
}
function draw() { drawGears(); drawMarks(); drawChart(); say(); }
function choose(i) { state.i = i; $('slider').value = i; draw(); }
let last = null;
function tick(time) {
  if (!state.running) { last = null; return; }
  if (last !== null) { state.turn = (state.turn + (time - last) / 2500) % Math.max(1, steps[state.i].driver ? steps[state.i].driver.teeth * (steps[state.i].driven ? steps[state.i].driven.teeth : 1) : 1); drawGears(); }
  last = time;
  requestAnimationFrame(tick);
}
$('slider').oninput = () => choose(Number($('slider').value));
$('run').onclick = () => { state.running = !state.running; $('run').textContent = state.running ? 'Pause' : 'Turn'; if (state.running) requestAnimationFrame(tick); };
$('close').onclick = () => { state.close = !state.close; $('close').textContent = state.close ? 'Whole' : 'Close up'; drawGears(); };
document.addEventListener('keydown', e => {
  if (e.key === 'ArrowLeft' || e.key === 'ArrowRight') { e.preventDefault(); choose(Math.min(steps.length - 1, Math.max(0, state.i + (e.key === 'ArrowRight' ? 1 : -1)))); }
  if (e.key === ' ') { e.preventDefault(); $('run').click(); }
});
function resize() { for (const id of ['gears', 'marks', 'chart']) size($(id)); draw(); }
window.addEventListener('resize', resize);
$('what').textContent = D.key + (steps[state.i].pair ? ', pair ' + steps[state.i].pair : '');
choose(state.i); resize(); requestAnimationFrame(tick);

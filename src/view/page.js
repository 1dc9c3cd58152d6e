// The roll, shown. All numbers come from the table that the roll wrote (D); between its positions they are
// interpolated. The driven member stays where it is until a limit pushes it: that is how play is taken up.
const $ = id => document.getElementById(id);
let D = null, gears, pitch, N, shapes, order;
let ghost = null;  // shapes as they were before, drawn as lines: { gears, shapes }
const state = { phi: 0, psi: 0, running: false, sense: 1, follow: true, lastPush: 1 };
function take(data) {
  D = data; gears = [D.driver, D.driven]; pitch = D.driver.pitch; N = D.positions.length;
  shapes = gears.map(outline); order = paintOrder(gears);
}
const turnOf = (i) => i === 0 ? state.phi : state.psi;

// ---- the picture -----------------------------------------------------------------------------------------------
const canvas = $('gears'), ctx = canvas.getContext('2d');
const view = { x: 0, y: 0, scale: 1 };
const lens = { x: 0, y: 0, r: 150, zoom: 9, set: false, at: [0, 0] };
let W = 0, H = 0;
function fit() {
  const [left, right, low, high] = extent(gears);
  view.y = (low + high) / 2;
  // Beside them stand the names of the circles; where there is little room those lie over the teeth.
  const beside = W < 800 ? 230 : 420;
  view.scale = Math.min((W - beside) / (right - left), (H - 30) / (high - low));
  if (view.scale < 0.1) view.scale = Math.min(W / (right - left), H / (high - low)) * 0.95;
  view.x = (left + right) / 2 + Math.min(70, W * 0.05) / view.scale;  // a little to the left: the lens stands on the right
}
function resize() {
  const ratio = window.devicePixelRatio || 1;
  for (const c of [canvas, $('strip')]) {
    c.width = Math.max(1, Math.round(c.clientWidth * ratio));
    c.height = Math.max(1, Math.round(c.clientHeight * ratio));
    c.getContext('2d').setTransform(ratio, 0, 0, ratio, 0, 0);
  }
  W = canvas.clientWidth; H = canvas.clientHeight;
  if (!D || !W || !H) return;
  if (!lens.set) { lens.r = Math.max(70, Math.min(165, H * 0.27, W * 0.19)); lens.x = W - lens.r - 24; lens.y = W < 500 ? lens.r + 8 : H - lens.r - 16; }  // on a phone the readings stand below
  fit();
  draw();
}
const toScreen = (x, y) => [W / 2 + (x - view.x) * view.scale, H / 2 - (y - view.y) * view.scale];
const toWorld = (sx, sy) => [view.x + (sx - W / 2) / view.scale, view.y - (sy - H / 2) / view.scale];

/** Gears, circles, line of action and contacts with the world on a pixel scale. */
function scene(c, scale) {
  const px = 1 / scale;
  for (const i of order) paintMember(c, gears[i], shapes[i], turnOf(i), i, px);
  if (ghost) paintGhost(c, px);
  // Where both want to be at once: the driver's shape seen through the driven's.
  const gaps = gapsNow();
  if ((gaps.u !== null && gaps.u < -1e-7) || (gaps.l !== null && gaps.l < -1e-7)) {
    c.save();
    enter(c, gears[1], state.psi); c.clip(shapes[1], 'evenodd'); leave(c, gears[1], state.psi);
    enter(c, gears[0], state.phi); c.fillStyle = '#1d1d22'; c.fill(shapes[0], 'evenodd');
    c.restore();
  }
  for (const g of gears) paintCircles(c, g, px);
  const side = state.lastPush > 0 ? 'u' : 'l', action = D.action[side][0];
  c.setLineDash([10 * px, 5 * px]); c.strokeStyle = '#1d1d22'; c.lineWidth = 1.5 * px;
  for (const chain of D.action[side]) {
    c.beginPath();
    for (let k = 0; k < chain.length; k += 2) c.lineTo(chain[k], chain[k + 1]);
    c.stroke();
  }
  c.setLineDash([]);
  for (const k of [0, 2]) {  // where a straight one leaves the base circles
    if (gears[k / 2].sort !== 'gear' || !gears[k / 2].circles.base) continue;
    c.beginPath(); c.arc(action[k], action[k + 1], 4 * px, 0, 2 * Math.PI); c.fillStyle = '#fbfaf6'; c.fill(); c.stroke();
  }
  for (const p of touching()) { c.beginPath(); c.arc(p[0], p[1], (D.face ? 2.4 : 4.5) * px, 0, 2 * Math.PI); c.fillStyle = '#1d1d22'; c.fill(); }
}
/** What was before, turned as far, with teeth at the same places. */
function paintGhost(c, px) {
  for (const i of [0, 1]) {
    const g = ghost.gears[i], mine = gears[i];
    c.save();
    enter(c, g, turnOf(i) - mine.start + g.start);
    c.strokeStyle = '#1d1d22'; c.globalAlpha = 0.75; c.lineWidth = px; c.stroke(ghost.shapes[i]);
    c.restore();
  }
}
/** How fast the gap along the normal closes per angle: of involutes always the same. */
const arm = side => D.arm || D.positions[place(state.phi).i]['a' + side];
/** Contact points now: those of the flank that is pushed, when it really touches. */
function touching() {
  const p = place(state.phi), points = [];
  for (const side of ['u', 'l']) {
    const at = limit(side, state.phi);
    if (at === null || Math.abs(at - state.psi) * arm(side) > 1e-5) continue;
    for (const q of D.positions[p.i][side === 'u' ? 'cu' : 'cl']) points.push(q);
  }
  return points;
}
const label = (text, x, y, color, align) => paintWords(ctx, text, x, y, color, align);
const circleLabels = i => paintCircleNames(ctx, gears, i, { W, scale: view.scale, toScreen, length });
function drawLens() {
  if (state.follow) {
    const points = D.positions[place(state.phi).i][state.lastPush > 0 ? 'cu' : 'cl'];
    const best = points[0] || D.pitch_point;
    lens.at[0] += (best[0] - lens.at[0]) * (state.running ? 0.25 : 1);
    lens.at[1] += (best[1] - lens.at[1]) * (state.running ? 0.25 : 1);
  }
  const scale = view.scale * lens.zoom, [px, py] = toScreen(lens.at[0], lens.at[1]);
  ctx.strokeStyle = INK; ctx.lineWidth = 1;
  const r0 = lens.r / lens.zoom, away = Math.hypot(lens.x - px, lens.y - py);
  if (away > lens.r + r0) {
    ctx.beginPath(); ctx.arc(px, py, r0, 0, 2 * Math.PI); ctx.stroke();
    const ux = (lens.x - px) / away, uy = (lens.y - py) / away;
    ctx.beginPath(); ctx.moveTo(px + ux * r0, py + uy * r0); ctx.lineTo(lens.x - ux * lens.r, lens.y - uy * lens.r); ctx.stroke();
  }
  ctx.save();
  ctx.beginPath(); ctx.arc(lens.x, lens.y, lens.r, 0, 2 * Math.PI); ctx.fillStyle = '#fffefb'; ctx.fill(); ctx.clip();
  ctx.translate(lens.x, lens.y); ctx.scale(scale, -scale); ctx.translate(-lens.at[0], -lens.at[1]);
  scene(ctx, scale);
  ctx.restore();
  ctx.beginPath(); ctx.arc(lens.x, lens.y, lens.r, 0, 2 * Math.PI); ctx.lineWidth = 2.5; ctx.strokeStyle = INK; ctx.stroke();
  const gaps = gapsNow();
  label(`${lens.zoom.toFixed(lens.zoom < 10 ? 1 : 0)}×`, lens.x, lens.y + lens.r - 14, INK, 'center');
  label(`▲ ${gaps.u === null ? 'open' : length(gaps.u, 4)}   ▼ ${gaps.l === null ? 'open' : length(gaps.l, 4)}`, lens.x, lens.y - lens.r + 40, INK, 'center');
}
/** Gaps along the normal at both flanks [mm]. */
function gapsNow() {
  const u = limit('u', state.phi), l = limit('l', state.phi), tidy = v => Math.abs(v) < 5e-10 ? 0 : v;
  return { u: u === null ? null : tidy((u - state.psi) * arm('u')), l: l === null ? null : tidy((state.psi - l) * arm('l')) };
}
function readings() {
  const p = place(state.phi), row = D.positions[p.i], u = limit('u', state.phi), l = limit('l', state.phi), g = gapsNow();
  // Of a rack from where its tooth nearest to the gear stands square, as of the first gear on it.
  const whole = g => Math.round(g.start / g.pitch) * g.pitch;
  const at = (a, i) => gears[i].sort === 'rack' ? length(a - whole(gears[i]), 4) : degrees(a);
  $('phi').textContent = at(state.phi, 0); $('psi').textContent = at(state.psi, 1);
  $('gap-upper').textContent = g.u === null ? 'open' : length(g.u, 5);
  $('gap-lower').textContent = g.l === null ? 'open' : length(g.l, 5);
  $('play-here').textContent = u === null || l === null ? 'open' : length((u - l) * D.working_radius, 6);
  $('pairs-here').textContent = String(row.n);
  const error = state.lastPush > 0 ? row.eu : row.el;
  $('te-here').textContent = error === null ? 'no contact' : smallError(error, 2);
  if (document.activeElement !== $('scrub')) $('scrub').value = (p.i + p.f) / N;
}
function draw() {
  ctx.clearRect(0, 0, W, H);
  ctx.save();
  ctx.translate(W / 2, H / 2); ctx.scale(view.scale, -view.scale); ctx.translate(-view.x, -view.y);
  scene(ctx, view.scale);
  ctx.restore();
  circleLabels(0); circleLabels(1);
  const a = D.action[state.lastPush > 0 ? 'u' : 'l'][0];
  if (a) { const end = toScreen(a[0], a[1]); label(D.action_name, end[0], end[1] + (end[1] > H / 2 ? 16 : -16), '#1d1d22', 'center'); }
  faceMap(); drawLens(); readings(); strip();
}
/** Twisted teeth touch along lines that run across the face: where, between both ends and along the line of action. */
function faceMap() {
  if (!D.face) return;
  const side = state.lastPush > 0 ? 'u' : 'l', row = D.positions[place(state.phi).i], a = D.action[side][0];
  const w = 190, h = 120, x0 = 24, y0 = 34, len = Math.hypot(a[2] - a[0], a[3] - a[1]) || 1;
  const ux = (a[2] - a[0]) / len, uy = (a[3] - a[1]) / len, b = D.face[1] - D.face[0];
  const along = p => ux * (p[0] - a[0]) + uy * (p[1] - a[1]);
  let low = Infinity, high = -Infinity;
  for (const r of D.positions) for (const p of r[side === 'u' ? 'cu' : 'cl']) { low = Math.min(low, along(p)); high = Math.max(high, along(p)); }
  ctx.fillStyle = '#fbfaf6ee'; ctx.fillRect(x0 - 8, y0 - 24, w + 16, h + 46);
  ctx.strokeStyle = FAINT; ctx.lineWidth = 1; ctx.strokeRect(x0, y0, w, h);
  ctx.fillStyle = '#1d1d22';
  for (const p of row[side === 'u' ? 'cu' : 'cl']) {
    ctx.beginPath(); ctx.arc(x0 + w * (p[2] - D.face[0]) / b, y0 + h - h * (along(p) - low) / (high - low || 1), 2.2, 0, 2 * Math.PI); ctx.fill();
  }
  label('contact lines on the face', x0, y0 - 12, INK, 'left');
  label(`face ${length(b, 2)}`, x0 + w / 2, y0 + h + 12, '#77756d', 'center');
}

// ---- hands -----------------------------------------------------------------------------------------------------
const rpm = () => Math.pow(10, Number($('speed').value));
let held = null;
/** Where on its way a member is held: an angle, or a place along the slide. */
const spotOn = (g, w) => g.sort === 'rack' ? -(Math.cos(g.facing) * (w[0] - g.x) + Math.sin(g.facing) * (w[1] - g.y)) : Math.atan2(w[1] - g.y, w[0] - g.x);
function touches(g, w) {
  if (g.sort !== 'rack') return Math.hypot(w[0] - g.x, w[1] - g.y) < reach(g);
  const across = -Math.sin(g.facing) * (w[0] - g.x) + Math.cos(g.facing) * (w[1] - g.y);
  return across < g.lines.tip && across > -g.base;
}
function spot(e) { const b = canvas.getBoundingClientRect(); return [e.clientX - b.left, e.clientY - b.top]; }
const inLens = (x, y) => Math.hypot(x - lens.x, y - lens.y) < lens.r;
canvas.addEventListener('pointerdown', e => {
  const [x, y] = spot(e), w = toWorld(x, y);
  canvas.setPointerCapture(e.pointerId);
  if (inLens(x, y)) { held = { lens: true, x, y }; return; }
  const i = [...order].reverse().find(n => touches(gears[n], w));
  if (i !== undefined) { run(false); held = { gear: i, angle: spotOn(gears[i], w) }; }
  else held = { pan: true, x, y };
  canvas.style.cursor = 'grabbing';
});
canvas.addEventListener('pointermove', e => {
  if (!held) return;
  const [x, y] = spot(e);
  if (held.lens) { lens.x += x - held.x; lens.y += y - held.y; lens.set = true; held.x = x; held.y = y; }
  else if (held.pan) { view.x -= (x - held.x) / view.scale; view.y += (y - held.y) / view.scale; held.x = x; held.y = y; }
  else {
    const g = gears[held.gear], angle = spotOn(g, toWorld(x, y));
    let d = angle - held.angle;
    if (g.sort !== 'rack') d -= 2 * Math.PI * Math.round(d / (2 * Math.PI));
    held.angle = angle;
    // Large moves are taken in small steps, so that no tooth is jumped.
    const steps = Math.max(1, Math.ceil(Math.abs(d) / (0.05 * g.pitch)));
    for (let n = 0; n < steps; n++) { if (held.gear === 0) turnDriver(state.phi + d / steps); else turnDriven(state.psi + d / steps); }
  }
  draw();
});
for (const end of ['pointerup', 'pointercancel']) canvas.addEventListener(end, () => { held = null; canvas.style.cursor = 'grab'; });
canvas.addEventListener('wheel', e => {
  e.preventDefault();
  const [x, y] = spot(e), factor = Math.exp(-e.deltaY * 0.0015);
  if (inLens(x, y)) lens.zoom = Math.min(400, Math.max(2, lens.zoom * factor));
  else {
    const before = toWorld(x, y);
    view.scale = Math.min(4000, Math.max(0.2, view.scale * factor));
    const after = toWorld(x, y);
    view.x += before[0] - after[0]; view.y += before[1] - after[1];
  }
  draw();
}, { passive: false });

function step(n) { run(false); const p = place(state.phi); goTo(p.k, p.i + n); }
/** To position `i` of tooth pitch `k`, the driver arriving in the present sense. */
function goTo(k, i) { turnDriver(D.driver.start + pitch * (k + i / N)); draw(); }
function reverse() { state.sense = -state.sense; $('reverse').textContent = state.sense > 0 ? 'Reverse' : 'Forward'; showSpeed(); }
function showSpeed() { $('rpm').textContent = (state.sense * rpm()).toPrecision(2) + (gears[0].sort === 'rack' ? ' r/min of the driven' : ' r/min of the driver'); }
function advance(seconds) {
  if (!D) return;
  const d = state.sense * rpm() * (gears[0].sort === 'rack' ? Math.abs(1 / D.ratio) : 1) * 2 * Math.PI / 60 * seconds;
  const steps = Math.max(1, Math.ceil(Math.abs(d) / (0.2 * pitch)));
  for (let n = 0; n < steps; n++) turnDriver(state.phi + d / steps);
  draw();
}
$('run').onclick = () => run(!state.running);
$('back').onclick = () => step(-1);
$('forth').onclick = () => step(1);
$('reverse').onclick = reverse;
$('follow').onclick = () => { state.follow = !state.follow; $('follow').textContent = 'Lens follows: ' + (state.follow ? 'on' : 'off'); draw(); };
$('fit').onclick = () => { fit(); draw(); };
$('speed').oninput = showSpeed;
$('scrub').oninput = () => { run(false); turnDriver(D.driver.start + pitch * (place(state.phi).k + Number($('scrub').value) * (1 - 1e-9))); draw(); };
document.addEventListener('keydown', e => {
  const typed = e.target.tagName === 'SELECT' || (e.target.tagName === 'INPUT' && e.target.type !== 'range');
  if (typed || e.ctrlKey || e.metaKey || (e.target.tagName === 'INPUT' && e.key.startsWith('Arrow'))) return;
  const keys = { ' ': () => run(!state.running), ArrowLeft: () => step(-1), ArrowRight: () => step(1), r: reverse,
                 f: () => $('follow').click(), 0: () => $('fit').click(), '+': () => { lens.zoom *= 1.3; draw(); }, '-': () => { lens.zoom = Math.max(2, lens.zoom / 1.3); draw(); } };
  if (keys[e.key]) { e.preventDefault(); keys[e.key](); }
});
window.addEventListener('resize', resize);
/** A pair that is shown anew: at the start the driver, about to turn forward, touches the driven. */
function begin(data) {
  take(data);
  $('verdict').textContent = D.verdict.replace('_', ' ');
  $('law').textContent = D.summary;
  state.phi = D.driver.start; state.psi = D.driven.start;
  const touch = limit(D.ratio < 0 ? 'u' : 'l', state.phi);
  if (touch !== null) { state.psi = touch; state.lastPush = D.ratio < 0 ? 1 : -1; }
  lens.at = D.pitch_point.slice();
  if (D.verdict === 'jams') lens.zoom = 80;  // overlaps are small
  settle(false); showSpeed(); resize();
}
if ($('data').textContent) begin(JSON.parse($('data').textContent));

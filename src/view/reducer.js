// A reducer, shown. Gaps, normals and limits come from the tables that the roll wrote (D); in between they are interpolated.
let D = null, N, Z, edge, opening, ghost = null;
const $ = id => document.getElementById(id);
const INK = '#3a3a40', BLACK = '#1d1d22', FAINT = '#b9b7ae', GREY = '#8b897f', OCHRE = '#b07a1e', PALE = '#ecd9b4', VIOLET = '#5c5988', LILAC = '#d5d4e6';
const TAU = 2 * Math.PI;
const state = { phi: 0, running: false, sense: 1, load: 'high', second: true, normals: true };

// ---- the roll's tables -----------------------------------------------------------------------------------------
/** A row of a table over a range that repeats itself. */
function row(table, share) {
  const M = table.length, at = (share % 1 + 1) % 1 * M, i = Math.floor(at) % M, f = at - Math.floor(at), a = table[i], b = table[(i + 1) % M];
  return [a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f];
}
/** Limits at the input angle: of each disc between the rollers, and of the output through all of them. */
function limits(phi) {
  const d = D.discs.map(disc => row(D.disc_room, (phi + disc.ahead) / TAU * N));
  const o = [-Infinity, Infinity];
  D.discs.forEach((disc, k) => {
    const pins = row(D.pin_room[k], (phi + disc.ahead - (D.flange_phase - phi / Z)) / TAU * D.pins);
    o[0] = Math.max(o[0], d[k][0] + pins[0]); o[1] = Math.min(o[1], d[k][1] + pins[1]);
  });
  return { o, d };
}
/** Gap, direction of the normal and side of every roller; rollers change places by one as the input goes on by 2π/N. */
function rollers(phi, high) {
  const table = high ? D.gaps_high : D.gaps_low, steps = table.length, turns = phi / TAU * N, k0 = Math.floor(turns), at = (turns - k0) * steps;
  const i = Math.min(steps - 1, Math.floor(at)), f = at - i;
  const read = (row, shift, k) => { const v = table[row][((k - shift) % N + N) % N]; return [v[0], v[1] + shift * TAU / N, v[2]]; };
  const all = [];
  for (let k = 0; k < N; k++) {
    const a = read(i, k0, k), b = i + 1 < steps ? read(i + 1, k0, k) : read(0, k0 + 1, k);
    let d = b[1] - a[1]; d -= TAU * Math.round(d / TAU);
    all.push({ gap: a[0] + (b[0] - a[0]) * f, angle: a[1] + d * f, side: a[2] });
  }
  return all;
}
const push = (range) => state.load === 'high' ? range[1] : state.load === 'low' ? range[0] : (range[0] + range[1]) / 2;
function now() {
  const l = limits(state.phi);
  const c = D.discs.map(d => [D.E * Math.cos(state.phi + d.ahead), D.E * Math.sin(state.phi + d.ahead)]);
  return { l, c, turn: D.discs.map((d, k) => d.turn - state.phi / Z + push(l.d[k])), psi: -state.phi / Z + push(l.o), gaps: rollers(state.phi, state.load !== 'low') };
}

// ---- the picture -----------------------------------------------------------------------------------------------
const path = list => { const p = new Path2D(); for (let i = 0; i < list.length; i += 2) { if (i) p.lineTo(list[i], list[i + 1]); else p.moveTo(list[i], list[i + 1]); } p.closePath(); return p; };
const canvas = $('gears'), ctx = canvas.getContext('2d');
const view = { x: 0, y: 0, scale: 1 }, lens = { x: 0, y: 0, r: 150, zoom: 6, set: false, at: [0, 0] };
let W = 0, H = 0;
function fit() {
  view.scale = Math.max(0.1, Math.min((H - 46) / (2 * D.outer), (W - 60) / (2 * D.outer)));
  view.x = Math.min(0.18 * W, Math.max(0, W / 2 - D.outer * view.scale - 330)) / view.scale; view.y = 0;
}
function resize() {
  const ratio = window.devicePixelRatio || 1;
  for (const c of [canvas, $('strip')]) {
    c.width = Math.max(1, Math.round(c.clientWidth * ratio)); c.height = Math.max(1, Math.round(c.clientHeight * ratio));
    c.getContext('2d').setTransform(ratio, 0, 0, ratio, 0, 0);
  }
  W = canvas.clientWidth; H = canvas.clientHeight;
  if (!lens.set) { lens.r = Math.max(70, Math.min(165, H * 0.29, W * 0.17)); lens.x = W - lens.r - 24; lens.y = H - lens.r - 16; }
  fit(); draw();
}
const toScreen = (x, y) => [W / 2 + (x - view.x) * view.scale, H / 2 - (y - view.y) * view.scale];
const toWorld = (sx, sy) => [view.x + (sx - W / 2) / view.scale, view.y - (sy - H / 2) / view.scale];
function disc(c, x, y, r, fill, line, px, width) {
  c.beginPath(); c.arc(x, y, r, 0, TAU); if (fill) { c.fillStyle = fill; c.fill(); }
  if (line) { c.strokeStyle = line; c.lineWidth = (width || 1.4) * px; c.stroke(); }
}
function scene(c, s, px) {
  disc(c, 0, 0, D.outer, '#edebe3', INK, px);
  c.fillStyle = '#fbfaf6'; c.fill(opening); c.strokeStyle = INK; c.lineWidth = 1.4 * px; c.stroke(opening);
  for (let d = D.discs.length - 1; d >= 0; d--) {
    if (d > 0 && !state.second) continue;
    c.save(); c.translate(s.c[d][0], s.c[d][1]); c.rotate(s.turn[d]);
    if (d === 0) { c.fillStyle = PALE; c.globalAlpha = 0.9; c.fill(edge); c.globalAlpha = 1; }
    c.strokeStyle = d === 0 ? OCHRE : GREY; c.lineWidth = (d === 0 ? 1.6 : 1) * px; c.stroke(edge);
    for (let i = 0; i < D.pins; i++) {
      const a = D.discs[d].hole_phase + TAU * i / D.pins;
      disc(c, D.pin_circle * Math.cos(a), D.pin_circle * Math.sin(a), D.hole, d === 0 ? '#fbfaf6' : null, d === 0 ? OCHRE : GREY, px);
    }
    if (d === 0) {
      disc(c, 0, 0, D.bore, '#fbfaf6', OCHRE, px); disc(c, 0, 0, D.journal, '#e3c98f', OCHRE, px);
      c.strokeStyle = OCHRE; c.lineWidth = 4 * px; c.beginPath(); c.moveTo(0.9 * D.root, 0); c.lineTo(0.98 * D.root, 0); c.stroke();
    }
    c.restore();
  }
  for (let i = 0; i < D.pins; i++) {
    const a = s.psi + D.flange_phase + TAU * i / D.pins;
    disc(c, D.pin_circle * Math.cos(a), D.pin_circle * Math.sin(a), D.pin, i === 0 ? VIOLET : LILAC, VIOLET, px);
  }
  for (let k = 0; k < N; k++) disc(c, D.R * Math.cos(TAU * k / N), D.R * Math.sin(TAU * k / N), D.roller, k === 0 ? BLACK : '#fbfaf6', INK, px);
  if (ghost) paintGhost(c, px);
  disc(c, 0, 0, D.shaft, null, OCHRE, px);
  c.strokeStyle = BLACK; c.lineWidth = 2 * px; c.beginPath(); c.moveTo(0, 0); c.lineTo(s.c[0][0], s.c[0][1]); c.stroke();
  disc(c, 0, 0, 2.5 * px, BLACK); disc(c, s.c[0][0], s.c[0][1], 2.5 * px, BLACK);
  // Normals of the rollers that carry go through the point about which the disc turns.
  const pole = [D.E * N * Math.cos(state.phi), D.E * N * Math.sin(state.phi)];
  if (state.normals && state.load !== 'free') {
    c.setLineDash([6 * px, 4 * px]); c.strokeStyle = BLACK; c.lineWidth = px;
    const carries = state.load === 'high' ? 1 : -1;
    for (let k = 0; k < N; k++) {
      const g = s.gaps[k];
      if (g.side !== carries) continue;
      const touches = g.gap < 1e-6;
      c.strokeStyle = touches ? BLACK : FAINT;
      const x = D.R * Math.cos(TAU * k / N) - D.roller * Math.cos(g.angle), y = D.R * Math.sin(TAU * k / N) - D.roller * Math.sin(g.angle);
      c.beginPath(); c.moveTo(x, y); c.lineTo(pole[0], pole[1]); c.stroke(); if (touches) disc(c, x, y, 3 * px, BLACK);
    }
    c.setLineDash([]); disc(c, pole[0], pole[1], 4 * px, '#fbfaf6', BLACK, px);
  }
}
/** What was before: ring, rollers and first disc at the same angle of the input. */
function paintGhost(c, px) {
  const g = ghost.data, d = g.discs[0];
  c.save();
  c.strokeStyle = BLACK; c.globalAlpha = 0.75; c.lineWidth = px; c.stroke(ghost.opening);
  for (let k = 0; k < g.rollers; k++) disc(c, g.R * Math.cos(TAU * k / g.rollers), g.R * Math.sin(TAU * k / g.rollers), g.roller, null, BLACK, px, 1);
  c.translate(g.E * Math.cos(state.phi + d.ahead), g.E * Math.sin(state.phi + d.ahead)); c.rotate(d.turn - state.phi / g.lobes);
  c.stroke(ghost.edge);
  c.restore();
}
function label(text, x, y, color, align, size) {
  ctx.font = `${size || 12}px "DejaVu Sans", system-ui, sans-serif`; ctx.textAlign = align; ctx.textBaseline = 'middle';
  ctx.lineWidth = 4; ctx.strokeStyle = '#fbfaf6'; ctx.strokeText(text, x, y); ctx.fillStyle = color; ctx.fillText(text, x, y);
}
function draw() {
  const s = now();
  ctx.clearRect(0, 0, W, H);
  ctx.save(); ctx.translate(W / 2, H / 2); ctx.scale(view.scale, -view.scale); ctx.translate(-view.x, -view.y); scene(ctx, s, 1 / view.scale); ctx.restore();
  for (let k = 0; k < N; k++) {
    const a = TAU * k / N, out = D.outer + 9 / view.scale, [x, y] = toScreen(out * Math.cos(a), out * Math.sin(a));
    if (N <= 60 || k % 5 === 0) label(String(k), x, y, INK, 'center', 11);
  }
  const [px, py] = toScreen(lens.at[0], lens.at[1]), r0 = lens.r / lens.zoom, away = Math.hypot(lens.x - px, lens.y - py);
  ctx.strokeStyle = INK; ctx.lineWidth = 1;
  if (away > lens.r + r0) {
    ctx.beginPath(); ctx.arc(px, py, r0, 0, TAU); ctx.stroke();
    const ux = (lens.x - px) / away, uy = (lens.y - py) / away;
    ctx.beginPath(); ctx.moveTo(px + ux * r0, py + uy * r0); ctx.lineTo(lens.x - ux * lens.r, lens.y - uy * lens.r); ctx.stroke();
  }
  ctx.save(); ctx.beginPath(); ctx.arc(lens.x, lens.y, lens.r, 0, TAU); ctx.fillStyle = '#fffefb'; ctx.fill(); ctx.clip();
  const scale = view.scale * lens.zoom;
  ctx.translate(lens.x, lens.y); ctx.scale(scale, -scale); ctx.translate(-lens.at[0], -lens.at[1]); scene(ctx, s, 1 / scale); ctx.restore();
  ctx.save(); ctx.beginPath(); ctx.arc(lens.x, lens.y, lens.r, 0, TAU); ctx.clip();
  for (let k = 0; k < N; k++) {
    const x = lens.x + (D.R * Math.cos(TAU * k / N) - lens.at[0]) * scale, y = lens.y - (D.R * Math.sin(TAU * k / N) - lens.at[1]) * scale;
    if (Math.hypot(x - lens.x, y - lens.y) > lens.r) continue;
    label(`${k}: ${length(Math.abs(s.gaps[k].gap) < 5e-9 ? 0 : s.gaps[k].gap, 5)}`, x, y, INK, 'center', 11);
  }
  ctx.restore();
  ctx.beginPath(); ctx.arc(lens.x, lens.y, lens.r, 0, TAU); ctx.lineWidth = 2.5; ctx.strokeStyle = INK; ctx.stroke();
  label(`${lens.zoom.toFixed(lens.zoom < 10 ? 1 : 0)}×`, lens.x, lens.y + lens.r - 14, INK, 'center');
  
  $('phi').textContent = degrees(state.phi); $('psi').textContent = degrees(s.psi); $('play-here').textContent = degrees(s.l.o[1] - s.l.o[0]);
  const gaps = s.gaps.map(g => g.gap);
  $('touching').textContent = state.load === 'free' ? '–' : String(gaps.filter(g => g < 1e-6).length);
  $('widest').textContent = length(Math.abs(Math.max(...gaps)) < 5e-9 ? 0 : Math.max(...gaps), 6);
  if (document.activeElement !== $('scrub')) $('scrub').value = ((state.phi / TAU) % 1 + 1) % 1;
  strip(s);
}
function strip(s) {
  const c = $('strip').getContext('2d'), w = $('strip').clientWidth, h = $('strip').clientHeight, half = (w - 60) / 2, narrow = half < 330, top = 30, bottom = h - 26;
  c.clearRect(0, 0, w, h);
  const text = (t, x, y, color, align, size) => { c.font = `${size || 12}px "DejaVu Sans", system-ui, sans-serif`; c.fillStyle = color; c.textAlign = align || 'left'; c.textBaseline = 'alphabetic'; c.fillText(t, x, y); };
  const most = Math.max(...s.gaps.map(g => Math.abs(g.gap))), none = most < 1e-8;
  const gaps = narrow ? 'gaps' : 'gap of each roller';
  text(none ? `${gaps}: none, all touch` : `${gaps}, up to ${length(most, 5)}`, 18, 16, INK, 'left', narrow ? 11 : 12);
  c.strokeStyle = FAINT; c.beginPath(); c.moveTo(18, bottom); c.lineTo(18 + half, bottom); c.stroke();
  const step = half / N;
  s.gaps.forEach((g, k) => {
    const tall = none ? 1 : Math.max(1, (bottom - top) * Math.abs(g.gap) / most);
    c.fillStyle = k === 0 ? BLACK : g.gap < -1e-8 ? '#bf1a1a' : g.side > 0 ? OCHRE : GREY;
    c.fillRect(18 + step * (k + 0.2), bottom - tall, 0.6 * step, tall);
    if (step > 16 || k % 5 === 0) text(String(k), 18 + step * (k + 0.5), bottom + 13, '#77756d', 'center', 10);
  });
  const x0 = 18 + half + 30, from = Math.floor(state.phi / TAU), values = [];
  for (let i = 0; i <= 360; i++) { const o = limits((from + i / 360) * TAU).o; values.push((o[1] - o[0]) * 180 / Math.PI); }
  let low = Math.min(...values), high = Math.max(...values);
  const here = (s.l.o[1] - s.l.o[0]) * 180 / Math.PI;
  text(`lost motion${narrow ? '' : ' at the output over a turn of the input'}: ${plain(here, narrow ? 4 : 6)}°`, x0, 16, INK, 'left', narrow ? 11 : 12);
  if (high - low < 1e-7) { const m = (low + high) / 2; low = m - 5e-8; high = m + 5e-8; }
  const X = f => x0 + half * f, Y = v => bottom - (bottom - top) * (v - low) / (high - low);
  c.strokeStyle = FAINT; c.beginPath(); c.moveTo(x0, bottom); c.lineTo(x0 + half, bottom); c.stroke();
  text(plain(high, 5) + '°', x0 + half, top + 2, '#77756d', 'right', 11); text(plain(low, 5) + '°', x0 + half, bottom - 4, '#77756d', 'right', 11);
  c.strokeStyle = INK; c.lineWidth = 1.4; c.beginPath();
  values.forEach((v, i) => { if (i) c.lineTo(X(i / 360), Y(v)); else c.moveTo(X(0), Y(v)); });
  c.stroke();
  const f = ((state.phi / TAU) % 1 + 1) % 1;
  c.strokeStyle = BLACK; c.setLineDash([4, 3]); c.beginPath(); c.moveTo(X(f), top - 4); c.lineTo(X(f), bottom + 4); c.stroke(); c.setLineDash([]);
  c.fillStyle = BLACK; c.beginPath(); c.arc(X(f), Y(here), 4, 0, TAU); c.fill();
  text('0', x0, h - 6, '#77756d', 'left', 11); text('one turn of the input', x0 + half, h - 6, '#77756d', 'right', 11);
}

// ---- hands -----------------------------------------------------------------------------------------------------
let held = null;
function spot(e) { const b = canvas.getBoundingClientRect(); return [e.clientX - b.left, e.clientY - b.top]; }
const inLens = (x, y) => Math.hypot(x - lens.x, y - lens.y) < lens.r;
canvas.addEventListener('pointerdown', e => {
  const [x, y] = spot(e), [wx, wy] = toWorld(x, y), r = Math.hypot(wx, wy);
  canvas.setPointerCapture(e.pointerId);
  if (inLens(x, y)) held = { lens: true, x, y };
  else if (r < D.bore + D.E) { run(false); held = { input: true, angle: Math.atan2(wy, wx) }; }
  else if (r < D.R) { run(false); held = { output: true, angle: Math.atan2(wy, wx) }; }
  else held = { pan: true, x, y };
  canvas.style.cursor = 'grabbing';
});
canvas.addEventListener('pointermove', e => {
  if (!held) return;
  const [x, y] = spot(e), [wx, wy] = toWorld(x, y);
  if (held.lens) {
    if (e.shiftKey) { lens.at[0] -= (x - held.x) / (view.scale * lens.zoom); lens.at[1] += (y - held.y) / (view.scale * lens.zoom); }
    else { lens.x += x - held.x; lens.y += y - held.y; lens.set = true; }
    held.x = x; held.y = y;
  } else if (held.pan) { view.x -= (x - held.x) / view.scale; view.y += (y - held.y) / view.scale; held.x = x; held.y = y; }
  else {
    const angle = Math.atan2(wy, wx);
    let d = angle - held.angle; d -= TAU * Math.round(d / TAU);
    held.angle = angle;
    state.phi += held.input ? d : -Z * d;  // turned at the output the input goes back Z times as far
  }
  draw();
});
for (const end of ['pointerup', 'pointercancel']) canvas.addEventListener(end, () => { held = null; canvas.style.cursor = 'grab'; });
canvas.addEventListener('dblclick', e => { const [x, y] = spot(e); if (!inLens(x, y)) { lens.at = toWorld(x, y); draw(); } });
canvas.addEventListener('wheel', e => {
  e.preventDefault();
  const [x, y] = spot(e), factor = Math.exp(-e.deltaY * 0.0015);
  if (inLens(x, y)) lens.zoom = Math.min(2000, Math.max(2, lens.zoom * factor));
  else {
    const before = toWorld(x, y);
    view.scale = Math.min(4000, Math.max(0.1, view.scale * factor));
    const after = toWorld(x, y);
    view.x += before[0] - after[0]; view.y += before[1] - after[1];
  }
  draw();
}, { passive: false });
const rpm = () => Math.pow(10, Number($('speed').value));
function advance(seconds) { state.phi += state.sense * rpm() * TAU / 60 * seconds; draw(); }
function step(n) { run(false); state.phi += n * TAU / 360; draw(); }
function showSpeed() { $('rpm').textContent = (state.sense * rpm()).toPrecision(2) + ' r/min of the input'; }
const LOADS = { high: 'held back', low: 'pushed on', free: 'none' };
$('run').onclick = () => run(!state.running);
$('back').onclick = () => step(-1);
$('forth').onclick = () => step(1);
$('reverse').onclick = () => { state.sense = -state.sense; $('reverse').textContent = state.sense > 0 ? 'Reverse' : 'Forward'; showSpeed(); };
$('load').onclick = () => { state.load = { high: 'low', low: 'free', free: 'high' }[state.load]; $('load').textContent = 'Load: ' + LOADS[state.load]; draw(); };
$('second').onclick = () => { state.second = !state.second; $('second').textContent = 'Others: ' + (state.second ? 'edge' : 'hidden'); draw(); };
$('normals').onclick = () => { state.normals = !state.normals; $('normals').textContent = 'Normals: ' + (state.normals ? 'on' : 'off'); draw(); };
$('fit').onclick = () => { fit(); draw(); };
$('speed').oninput = showSpeed;
$('scrub').oninput = () => { run(false); state.phi = (Math.floor(state.phi / TAU) + Number($('scrub').value) * (1 - 1e-9)) * TAU; draw(); };
document.addEventListener('keydown', e => {
  if (e.target.tagName === 'INPUT' && e.key.startsWith('Arrow')) return;
  const keys = { ' ': () => run(!state.running), ArrowLeft: () => step(-1), ArrowRight: () => step(1), r: () => $('reverse').click(), l: () => $('load').click(),
                 s: () => $('second').click(), n: () => $('normals').click(), 0: () => $('fit').click() };
  if (keys[e.key]) { e.preventDefault(); keys[e.key](); }
});
window.addEventListener('resize', resize);
/** Another state of the reducer, or the first: it goes on turning where it stands, seen as it is seen. */
function take(data) {
  const outer = D && D.outer;
  D = data; N = D.rollers; Z = D.lobes;
  edge = path(D.edge); opening = path(D.ring);
  $('verdict').textContent = D.verdict.replace('_', ' ');
  $('verdict').style.color = D.verdict === 'meshes' ? '#3c6e3c' : '#a03030';
  $('law').textContent = D.summary + (D.wrong ? ' — ' + D.wrong : '');
  $('second').style.display = D.discs.length < 2 ? 'none' : '';
  if (outer === null) { const a = TAU * Math.round(N / 8) / N; lens.at = [(D.R - D.roller) * Math.cos(a), (D.R - D.roller) * Math.sin(a)]; }
  else if (outer !== D.outer) fit();
}
/** A state before, as lines; none: no more. */
function showBefore(data) { ghost = data ? { data, edge: path(data.edge), opening: path(data.ring) } : null; }
function shown() { return D; }
take(JSON.parse($('data').textContent)); showSpeed(); resize();

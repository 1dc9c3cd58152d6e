// The tool rolls past the blank; what it covers is gone. The finished tooth is the exact curve, drawn as a line: the cut
// must come to lie on it.
const D = JSON.parse(document.getElementById('data').textContent);
const $ = id => document.getElementById(id);
const N = 72, canvas = $('work'), c = canvas.getContext('2d');
const state = { n: 0, running: true, close: true };
$('slider').max = N;
const finished = outline(D.gear), internal = D.gear.sort === 'ring';
const turnAt = n => D.reach * (2 * n / N - 1);
function toolPath(turn) {
  const path = new Path2D(), ct = Math.cos(-turn), st = Math.sin(-turn), a = turn * D.ratio, ca = Math.cos(a), sa = Math.sin(a);
  for (let i = 0; i < D.tool.length; i += 2) {
    let x = D.tool[i], y = D.tool[i + 1];
    if (D.rack) { x += D.distance; y += D.rolling_radius * turn; } else { [x, y] = [ca * x - sa * y + D.distance, sa * x + ca * y]; }
    if (i) path.lineTo(ct * x - st * y, st * x + ct * y); else path.moveTo(ct * x - st * y, st * x + ct * y);
  }
  path.closePath();
  return path;
}
const paths = Array.from({ length: N + 1 }, (_, n) => toolPath(turnAt(n)));
const blank = document.createElement('canvas'), b = blank.getContext('2d');
function place(k) {
  const W = canvas.clientWidth, H = canvas.clientHeight, root = D.gear.circles.root / 2, tip = D.blank / 2;
  const middle = (root + tip) / 2, scale = state.close ? Math.min(W / 9, H / 5.2) / D.module : Math.min(W, H) / (2.3 * (internal ? D.gear.outer / 2 : tip));
  k.translate(W / 2, H / 2); k.scale(scale, -scale);
  // The space that is cut stands upright.
  k.rotate(Math.PI / 2 * (internal ? 1 : 1));
  if (state.close) k.translate(-middle, 0);
  return scale;
}
function draw() {
  const r = window.devicePixelRatio || 1, W = canvas.clientWidth, H = canvas.clientHeight;
  canvas.width = blank.width = W * r; canvas.height = blank.height = H * r;
  b.setTransform(r, 0, 0, r, 0, 0);
  const scale = place(b);
  b.fillStyle = FILL[0];
  b.beginPath();
  if (internal) { b.arc(0, 0, D.gear.outer / 2, 0, 2 * Math.PI); b.arc(0, 0, D.blank / 2, 0, 2 * Math.PI, true); } else b.arc(0, 0, D.blank / 2, 0, 2 * Math.PI);
  b.fill();
  b.globalCompositeOperation = 'destination-out';
  for (let n = 0; n <= state.n; n++) b.fill(paths[n]);
  b.globalCompositeOperation = 'source-atop';
  b.strokeStyle = COLOR[0]; b.lineWidth = 0.5 / scale; b.globalAlpha = 0.55;
  for (let n = 0; n <= state.n; n++) b.stroke(paths[n]);
  b.globalAlpha = 1; b.globalCompositeOperation = 'source-over';
  c.setTransform(1, 0, 0, 1, 0, 0); c.clearRect(0, 0, canvas.width, canvas.height); c.drawImage(blank, 0, 0);
  c.setTransform(r, 0, 0, r, 0, 0);
  place(c);
  for (const [d, dash, colour] of [[D.gear.circles.base, [5, 4], '#8b897f'], [D.form, [1, 3], '#1d1d22'], [D.gear.circles.working, [9, 3, 2, 3], INK]]) {
    c.setLineDash(dash.map(x => x / scale)); c.strokeStyle = colour; c.lineWidth = 1 / scale; c.beginPath(); c.arc(0, 0, d / 2, 0, 2 * Math.PI); c.stroke();
  }
  c.setLineDash([]);
  c.save(); c.rotate(D.gear.start); c.strokeStyle = '#1d1d22'; c.lineWidth = 1.4 / scale; c.stroke(finished); c.restore();
  c.fillStyle = 'rgba(92, 89, 136, 0.25)'; c.fill(paths[state.n]);
  c.strokeStyle = COLOR[1]; c.lineWidth = 1.6 / scale; c.stroke(paths[state.n]);
  c.setTransform(r, 0, 0, r, 0, 0);
  c.font = '12px "DejaVu Sans", system-ui, sans-serif'; c.fillStyle = INK; c.textAlign = 'right';
  const circles = ['dashes: base circle', 'dots: where the involute ends', 'dash-dot: reference circle'];
  const words = ['black line: the exact finished tooth', 'violet: the tool now', ...(W < 700 ? circles : [circles.join('; ')])];
  words.forEach((t, i) => c.fillText(t, W - 18, H - 18 * (words.length - i)));
  $('count').textContent = `step ${state.n} of ${N}`;
  $('slider').value = state.n;
}
motion.pace = 90; motion.word = 'Cut';
function advance() { state.n = state.n >= N ? 0 : state.n + 1; draw(); }
function step(d) { run(false); state.n = Math.min(N, Math.max(0, state.n + d)); draw(); }
$('run').onclick = () => run(!state.running);
$('back').onclick = () => step(-1);
$('forth').onclick = () => step(1);
$('slider').oninput = () => { run(false); state.n = Number($('slider').value); draw(); };
$('close').onclick = () => { state.close = !state.close; $('close').textContent = state.close ? 'Whole gear' : 'Tooth space'; draw(); };
document.addEventListener('keydown', e => {
  const keys = { ' ': () => run(!state.running), ArrowLeft: () => step(-1), ArrowRight: () => step(1) };
  if (keys[e.key] && e.target.tagName !== 'INPUT') { e.preventDefault(); keys[e.key](); }
});
window.addEventListener('resize', draw);
$('close').textContent = 'Whole gear';
$('what').textContent = D.summary;
$('say').textContent = D.findings.join('\n');
// Who asks for less motion sees the finished cut.
const calm = window.matchMedia && matchMedia('(prefers-reduced-motion: reduce)').matches;
if (calm) state.n = N;
run(!calm);
draw();

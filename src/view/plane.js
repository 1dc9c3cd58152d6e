// Members in the plane: their shapes, where they stand at a coordinate, and how they are painted. Shared by the pages.
const INK = '#3a3a40', FAINT = '#b9b7ae', COLOR = ['#b07a1e', '#5c5988'], FILL = ['#ecd9b4', '#d5d4e6'];
function outline(gear) {
  const path = new Path2D(), n = gear.outline.length / 2, copies = gear.sort === 'rack' ? 1 : gear.copies || gear.teeth;
  for (let k = 0; k < copies; k++) {
    const a = k * (gear.step || 0), c = Math.cos(a), s = Math.sin(a);
    for (let i = 0; i < n; i++) {
      const x = gear.outline[2 * i], y = gear.outline[2 * i + 1];
      if (gear.islands ? i : k || i) path.lineTo(c * x - s * y, s * x + c * y); else path.moveTo(c * x - s * y, s * x + c * y);
    }
    if (gear.islands) path.closePath();
  }
  path.closePath();
  for (const loop of gear.loops || []) {
    for (let i = 0; i < loop.length; i += 2) { if (i) path.lineTo(loop[i], loop[i + 1]); else path.moveTo(loop[i], loop[i + 1]); }
    path.closePath();
  }
  if (gear.sort === 'ring') { path.moveTo(gear.outer / 2, 0); path.arc(0, 0, gear.outer / 2, 0, 2 * Math.PI); }
  return path;
}
/** Sets a context into a member's own frame at coordinate q. */
function enter(c, g, q) {
  if (g.sort === 'rack') { c.translate(g.x - Math.cos(g.facing) * q, g.y - Math.sin(g.facing) * q); c.rotate(g.facing); }
  else { c.translate(g.x, g.y); c.rotate(q); }
}
function leave(c, g, q) {
  if (g.sort === 'rack') { c.rotate(-g.facing); c.translate(-(g.x - Math.cos(g.facing) * q), -(g.y - Math.sin(g.facing) * q)); }
  else { c.rotate(-q); c.translate(-g.x, -g.y); }
}
const reach = g => g.sort === 'rack' ? g.length / 2 : (g.sort === 'ring' ? g.outer : g.circles.tip) / 2;
/** A ring is painted first, so that its pinion stands in it. */
const paintOrder = gears => gears[0].sort === 'ring' ? [0, 1] : [1, 0];
/** left, right, low, high of all members; of a rack no more than its mate needs. */
function extent(gears) {
  let left = Infinity, right = -Infinity, low = Infinity, high = -Infinity;
  const most = 2.2 * Math.max(...gears.filter(g => g.sort !== 'rack').map(reach));
  for (const g of gears) {
    const r = Math.min(reach(g), most), across = g.sort === 'rack' ? 1.4 * g.base : r;
    const rx = g.sort === 'rack' ? Math.max(Math.abs(Math.cos(g.facing)) * r, across) : r, ry = g.sort === 'rack' ? Math.max(Math.abs(Math.sin(g.facing)) * r, across) : r;
    left = Math.min(left, g.x - rx); right = Math.max(right, g.x + rx); low = Math.min(low, g.y - ry); high = Math.max(high, g.y + ry);
  }
  return [left, right, low, high];
}
/** A member i (0 driver, 1 driven) at coordinate q, with a mark that shows the turning; px: a pixel in world units. */
function paintMember(c, g, shape, q, i, px) {
  c.save();
  enter(c, g, q);
  c.fillStyle = FILL[i]; c.globalAlpha = 0.85; c.fill(shape, 'evenodd'); c.globalAlpha = 1;
  c.strokeStyle = COLOR[i]; c.lineWidth = 1.6 * px; c.stroke(shape);
  c.beginPath();
  if (g.sort === 'rack') { c.moveTo(0, -0.85 * g.base); c.lineTo(0, -0.6 * g.base); }
  else if (g.sort === 'ring') { const m = (g.outer + g.circles.root) / 4, h = (g.outer - g.circles.root) / 8; c.moveTo(m - h, 0); c.lineTo(m + h, 0); }
  else { c.moveTo(g.circles.root * 0.36, 0); c.lineTo(g.circles.root * 0.46, 0); }
  c.lineWidth = 4 * px; c.stroke();
  c.restore();
}
/** Tip, pitch, base and root circle of a gear; the reference line of a rack. */
function paintCircles(c, g, px) {
  c.lineWidth = px;
  if (g.sort === 'rack') {
    const ux = Math.cos(g.facing), uy = Math.sin(g.facing);
    c.strokeStyle = INK; c.setLineDash([9, 3, 2, 3].map(d => d * px)); c.beginPath();
    c.moveTo(g.x - ux * g.length, g.y - uy * g.length); c.lineTo(g.x + ux * g.length, g.y + uy * g.length); c.stroke(); c.setLineDash([]);
    return;
  }
  for (const [name, dash] of [['tip', []], ['working', [9, 3, 2, 3]], ['base', [5, 4]], ['root', [2, 3]]]) {
    if (!g.circles[name]) continue;
    c.strokeStyle = name === 'working' ? INK : '#8b897f';
    c.setLineDash(dash.map(d => d * px)); c.beginPath(); c.arc(g.x, g.y, g.circles[name] / 2, 0, 2 * Math.PI); c.stroke();
  }
}
/** Words on a halo of paper. */
function paintWords(c, text, x, y, color, align, size = 12) {
  c.save();
  c.font = size + 'px "DejaVu Sans", system-ui, sans-serif'; c.textAlign = align; c.textBaseline = 'middle';
  c.lineWidth = 4; c.strokeStyle = '#fbfaf6'; c.strokeText(text, x, y); c.fillStyle = color; c.fillText(text, x, y);
  c.restore();
}
/** What the circles of a member are called and measure, beside it, and its name; of view: W, scale, toScreen(x, y), length(mm, digits). */
function paintCircleNames(c, gears, i, { W, scale, toScreen, length }) {
  const label = (text, x, y, color, align) => paintWords(c, text, x, y, color, align);
  const g = gears[i];
  if (g.sort === 'rack') {
    const [x, y] = toScreen(g.x + Math.sin(g.facing) * g.base * 1.25, g.y - Math.cos(g.facing) * g.base * 1.25);
    label(`${g.name}, ${g.teeth} teeth`, x, y, COLOR[i], Math.sin(g.facing) > 0.5 ? 'left' : 'center');
    return;
  }
  const ring = gears.some(m => m.sort === 'ring'), along = Math.atan2(gears[1].y - gears[0].y, gears[1].x - gears[0].x) + ((i === 0) !== ring ? Math.PI : 0);
  // On the side away from the mate; where that is neither, the driver's on the left.
  const out = Math.abs(Math.cos(along)) > 0.01 ? Math.sign(Math.cos(along)) : i === 0 ? -1 : 1;
  const names = W < 480 ? [] : [['tip', 'tip'], ['working', 'pitch'], ['base', 'base'], ['root', 'root']].filter(n => g.circles[n[0]]);
  const [ax] = toScreen(g.x, g.y);
  const wide = W < 800 ? 122 : 175, edge = Math.max(wide, Math.min(W - wide, ax + (reach(g) * scale + 22) * out));
  names.sort((a, b) => g.circles[b[0]] - g.circles[a[0]]);
  // On the right names stand above the middle, clear of the lens in the lower corner.
  const lift = out < 0 ? 0 : 0.45, [, ay] = toScreen(g.x, g.y + lift * g.circles.tip / 2);
  names.forEach(([name, word], n) => {
    const a = along + out * (lift - (n - 1.5) * 0.16), r = g.circles[name] / 2;
    const [x, y] = toScreen(g.x + r * Math.cos(a), g.y + r * Math.sin(a));
    const ty = ay + (n - 1.5) * 22;
    c.strokeStyle = '#8b897f'; c.lineWidth = 0.8; c.beginPath(); c.moveTo(x, y); c.lineTo(edge - 4 * out, ty); c.stroke();
    label(`${word} ⌀${length(g.circles[name], 3)}`, edge, ty, COLOR[i], out < 0 ? 'right' : 'left');
  });
  // A name that has no room in its gear stands above it.
  const small = g.sort !== 'ring' && g.circles.root * scale < 150;
  const top = toScreen(g.x, g.sort === 'ring' ? g.y + (g.outer + g.circles.root) / 4 : small ? g.y + reach(g) : g.y + 0.26 * g.circles.root);
  label(`${g.name}, ${g.teeth} ${g.count_word || 'teeth'}`, top[0], top[1] - (small ? 14 : 0), COLOR[i], 'center');
}

// The roll in space, shown. All numbers come from the table that the roll wrote (D); between its positions they are
// interpolated. The driven stays where it is until a limit pushes it: that is how play is taken up.
const $ = id => document.getElementById(id);
const INK = '#3a3a40', FAINT = '#b9b7ae';
let D = null, pitch, N, gears = [], ghosts = [];
const state = { phi: 0, psi: 0, running: false, sense: 1, lastPush: 1 };

// ---- the scene -------------------------------------------------------------------------------------------------
const stage = $('space');
const { renderer, scene, camera, sun } = lit(stage);
/** A gear's edges; kept with it, for a ghost of it may be shown later. */
function edgesIn(g) {
  const edges = new THREE.BufferGeometry();
  g.edges = g.edges || edgesOf(decode(g.points, Float32Array), decode(g.triangles, Uint32Array));
  edges.setAttribute('position', new THREE.BufferAttribute(g.edges, 3));
  return edges;
}
/** What turns about a gear's axis, where that stands. */
function standingAt(g, ...turns) {
  const turning = new THREE.Group(), standing = new THREE.Group(), m = g.axes;
  turning.add(...turns);
  standing.add(turning);
  standing.matrixAutoUpdate = false;
  standing.matrix.set(m[0], m[1], m[2], g.origin[0], m[3], m[4], m[5], g.origin[1], m[6], m[7], m[8], g.origin[2], 0, 0, 0, 1);
  standing.updateMatrixWorld(true);
  scene.add(standing);
  return { standing, turning, data: g };
}
function member(g, colour) {
  const solid = new THREE.BufferGeometry();
  solid.setAttribute('position', new THREE.BufferAttribute(decode(g.points, Float32Array), 3));
  solid.setIndex(new THREE.BufferAttribute(decode(g.triangles, Uint32Array), 1));
  const mesh = new THREE.Mesh(solid, new THREE.MeshPhongMaterial({ color: colour, specular: 0, flatShading: true, transparent: true, opacity: 1, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
  const edges = new THREE.LineSegments(edgesIn(g), new THREE.LineBasicMaterial({ color: 0x3a3a40, transparent: true, opacity: 0.45 }));
  const made = standingAt(g, mesh, edges), standing = made.standing;
  const axis = new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(0, 0, g.axis[0]), new THREE.Vector3(0, 0, g.axis[1])]);
  const line = new THREE.Line(axis, new THREE.LineDashedMaterial({ color: 0x3a3a40, dashSize: 3, gapSize: 1.5 }));
  line.computeLineDistances();
  standing.add(line);
  return { ...made, mesh };
}
const dotShape = new THREE.SphereGeometry(1, 20, 14), dots = [];
for (let i = 0; i < 12; i++) {
  const dot = new THREE.Mesh(dotShape, new THREE.MeshBasicMaterial({ color: 0x1d1d22, depthTest: false, transparent: true }));
  dot.renderOrder = 5; dot.visible = false;
  scene.add(dot); dots.push(dot);
}
// Where flanks touch along a line: a thin rod between its ends.
const rodShape = new THREE.CylinderGeometry(1, 1, 1, 10), rods = [];
for (let i = 0; i < 8; i++) {
  const rod = new THREE.Mesh(rodShape, new THREE.MeshBasicMaterial({ color: 0x1d1d22, depthTest: false, transparent: true }));
  rod.renderOrder = 5; rod.visible = false;
  scene.add(rod); rods.push(rod);
}
const lineOfAction = new THREE.Line(new THREE.BufferGeometry(), new THREE.LineDashedMaterial({ color: 0x1d1d22, dashSize: 1, gapSize: 0.5, depthTest: false, transparent: true }));
scene.add(lineOfAction);

const look = { at: new THREE.Vector3(), distance: 1, whole: 1, turn: 0, rise: 0 };
function fit() {
  const corners = [];
  for (const g of gears) {
    g.mesh.geometry.computeBoundingBox();
    boxCorners(corners, g.mesh.geometry.boundingBox, g.standing.matrix, true);
  }
  look.turn = D.turn; look.rise = D.rise;
  look.whole = frame(look, camera, corners);
}
function near() { const p = contacts()[0] || D.pitch_point; look.at.set(p[0], p[1], p[2]); look.distance = D.size * 0.35; }
function resize() {
  const w = stage.clientWidth, h = stage.clientHeight, s = $('strip');
  renderer.setPixelRatio(window.devicePixelRatio || 1); renderer.setSize(w, h);
  camera.aspect = w / h; camera.updateProjectionMatrix();
  s.width = s.clientWidth * (window.devicePixelRatio || 1); s.height = s.clientHeight * (window.devicePixelRatio || 1);
  s.getContext('2d').setTransform(window.devicePixelRatio || 1, 0, 0, window.devicePixelRatio || 1, 0, 0);
  if (framed()) fit();
  draw();
}
function contacts() {
  if (!N) return [];
  const row = D.positions[place(state.phi).i], side = state.lastPush > 0 ? 'u' : 'l', at = limit(side, state.phi);
  return at === null || Math.abs(at - state.psi) * D.arm > 1e-5 ? [] : row[side === 'u' ? 'cu' : 'cl'];
}
function draw() {
  gears[0].turning.rotation.z = state.phi; gears[1].turning.rotation.z = state.psi;
  // Teeth of the ghost at the same places.
  for (const g of ghosts) g.turning.rotation.z = g.of.turning.rotation.z - g.of.data.start + g.data.start;
  const points = contacts();
  const ends = points.flatMap(p => p.length === 6 ? [p.slice(0, 3), p.slice(3)] : [p]), lines = points.filter(p => p.length === 6);
  dots.forEach((dot, i) => { dot.visible = i < ends.length; if (dot.visible) dot.position.set(...ends[i]); });
  rods.forEach((rod, i) => {
    rod.visible = i < lines.length;
    if (!rod.visible) return;
    const a = new THREE.Vector3(...lines[i].slice(0, 3)), b = new THREE.Vector3(...lines[i].slice(3)), way = b.clone().sub(a);
    rod.position.copy(a).addScaledVector(way, 0.5);
    rod.scale.set(0.45 * D.dot, way.length(), 0.45 * D.dot);
    rod.quaternion.setFromUnitVectors(new THREE.Vector3(0, 1, 0), way.normalize());
  });
  const a = D.action[state.lastPush > 0 ? 'u' : 'l'];
  lineOfAction.visible = a.length > 1;
  if (a.length > 1) { lineOfAction.geometry.setFromPoints(a.map(p => new THREE.Vector3(...p))); lineOfAction.computeLineDistances(); }
  camera.position.set(look.at.x + look.distance * Math.cos(look.rise) * Math.cos(look.turn), look.at.y + look.distance * Math.cos(look.rise) * Math.sin(look.turn), look.at.z + look.distance * Math.sin(look.rise));
  camera.near = look.distance / 200; camera.far = look.distance * 20; camera.updateProjectionMatrix();
  camera.lookAt(look.at);
  sun.position.copy(camera.position).add(new THREE.Vector3(look.distance * 0.4, 0, look.distance * 0.5));
  pictured(renderer, scene, camera);
  readings(); strip();
}
function readings() {
  const p = place(state.phi), row = D.positions[p.i], u = limit('u', state.phi), l = limit('l', state.phi);
  const gap = v => v === null ? 'open' : length((Math.abs(v) * D.arm < 5e-10 ? 0 : v * D.arm), 5);
  $('phi').textContent = degrees(state.phi); $('psi').textContent = degrees(state.psi);
  $('gap-upper').textContent = gap(u === null ? null : u - state.psi); $('gap-lower').textContent = gap(l === null ? null : state.psi - l);
  $('play-here').textContent = u === null || l === null ? 'open' : length((u - l) * D.working_radius, 6);
  $('pairs-here').textContent = row ? String(row.n) : '…';
  const error = !row ? null : state.lastPush > 0 ? row.eu : row.el;
  if (!row) for (const id of ['gap-upper', 'gap-lower', 'play-here']) $(id).textContent = '…';
  $('te-here').textContent = !row ? '…' : error === null ? 'no contact' : smallError(error, 2);
  if (document.activeElement !== $('scrub')) $('scrub').value = N ? (p.i + p.f) / N : 0;
}

// ---- hands -----------------------------------------------------------------------------------------------------
const rpm = () => Math.pow(10, Number($('speed').value));
const ray = new THREE.Raycaster();
let held = null;
function aim(e) {
  const b = renderer.domElement.getBoundingClientRect();
  ray.setFromCamera(new THREE.Vector2((e.clientX - b.left) / b.width * 2 - 1, 1 - (e.clientY - b.top) / b.height * 2), camera);
}
/** Angle about a gear's axis of the point where the line of sight meets the plane through `at` across that axis. */
function angleAt(i, at) {
  const inverse = inverseOf(gears[i].standing.matrixWorld);
  const from = ray.ray.origin.clone().applyMatrix4(inverse), towards = ray.ray.origin.clone().add(ray.ray.direction).applyMatrix4(inverse).sub(from);
  const t = Math.abs(towards.z) < 1e-6 ? 0 : (at - from.z) / towards.z, p = from.add(towards.multiplyScalar(t));
  return Math.atan2(p.y, p.x);
}
stage.addEventListener('pointerdown', e => {
  stage.setPointerCapture(e.pointerId);
  aim(e);
  const hit = ray.intersectObjects(gears.map(g => g.mesh))[0];
  if (hit) {
    const i = gears.findIndex(g => g.mesh === hit.object), own = hit.point.clone().applyMatrix4(inverseOf(gears[i].standing.matrixWorld));
    run(false); held = { gear: i, z: own.z, angle: Math.atan2(own.y, own.x), x: e.clientX };
  } else held = { x: e.clientX, y: e.clientY };
});
stage.addEventListener('pointermove', e => {
  if (!held) return;
  if (held.gear === undefined) {
    look.turn -= (e.clientX - held.x) * 0.006; look.rise = Math.max(-1.5, Math.min(1.5, look.rise + (e.clientY - held.y) * 0.006));
    held.x = e.clientX; held.y = e.clientY;
  } else {
    aim(e);
    const angle = angleAt(held.gear, held.z);
    let d = angle - held.angle; d -= 2 * Math.PI * Math.round(d / (2 * Math.PI));
    if (Math.abs(d) > 1) return;
    held.angle = angle;
    const steps = Math.max(1, Math.ceil(Math.abs(d) / (0.05 * pitch)));
    for (let n = 0; n < steps; n++) { if (held.gear === 0) turnDriver(state.phi + d / steps); else turnDriven(state.psi + d / steps); }
  }
  draw();
});
for (const end of ['pointerup', 'pointercancel']) stage.addEventListener(end, () => { held = null; });
stage.addEventListener('wheel', e => { e.preventDefault(); look.distance *= Math.exp(e.deltaY * 0.0012); draw(); }, { passive: false });
function step(n) { run(false); const p = place(state.phi); goTo(p.k, p.i + n); }
function goTo(k, i) { turnDriver(D.driver.start + pitch * (k + i / N)); draw(); }
function reverse() { state.sense = -state.sense; $('reverse').textContent = state.sense > 0 ? 'Reverse' : 'Forward'; showSpeed(); }
function showSpeed() { $('rpm').textContent = (state.sense * rpm()).toPrecision(2) + ' r/min of the driver'; }
function advance(seconds) {
  const d = state.sense * rpm() * 2 * Math.PI / 60 * seconds, steps = Math.max(1, Math.ceil(Math.abs(d) / (0.2 * pitch)));
  for (let n = 0; n < steps; n++) turnDriver(state.phi + d / steps);
  draw();
}
function glass() {
  const through = gears[0].mesh.material.opacity === 1;
  for (const g of gears) { g.mesh.material.opacity = through ? 0.35 : 1; g.mesh.material.depthWrite = !through; }
  $('glass').textContent = 'See through: ' + (through ? 'on' : 'off'); draw();
}
$('run').onclick = () => run(!state.running);
$('back').onclick = () => step(-1);
$('forth').onclick = () => step(1);
$('reverse').onclick = reverse;
$('glass').onclick = glass;
$('near').onclick = () => { near(); draw(); };
$('fit').onclick = () => { fit(); draw(); };
$('speed').oninput = showSpeed;
$('scrub').oninput = () => { run(false); turnDriver(D.driver.start + pitch * (place(state.phi).k + Number($('scrub').value) * (1 - 1e-9))); draw(); };
document.addEventListener('keydown', e => {
  if (e.target.tagName === 'INPUT' && e.key.startsWith('Arrow')) return;
  const keys = { ' ': () => run(!state.running), ArrowLeft: () => step(-1), ArrowRight: () => step(1), r: reverse, g: glass, c: () => $('near').click(), 0: () => $('fit').click(),
                 '+': () => { look.distance /= 1.2; draw(); }, '-': () => { look.distance *= 1.2; draw(); } };
  if (keys[e.key]) { e.preventDefault(); keys[e.key](); }
});
window.addEventListener('resize', resize);
/** Another state of the same pair, or the first: it goes on turning where it stands, seen as it is seen. */
function take(data) {
  const turned = D ? (state.phi - D.driver.start) / pitch : 0, first = !D, whole = D && framed();
  const through = gears.length && gears[0].mesh.material.opacity < 1;
  for (const g of gears.concat(ghosts)) dropped(g.standing);
  ghosts = [];
  D = data; pitch = D.driver.pitch; N = D.positions.length;
  gears = [member(D.driver, 0xd9a548), member(D.driven, 0x8a87b8)];
  for (const dot of dots) dot.scale.setScalar(D.dot);
  $('verdict').textContent = D.verdict ? D.verdict.replace('_', ' ') : 'rolling …';
  $('law').textContent = D.summary; document.querySelector('.stamp').textContent = D.stamp;
  state.phi = D.driver.start + turned * pitch; state.psi = nominal(state.phi);
  const touch = limit(state.lastPush > 0 ? 'u' : 'l', state.phi);
  if (touch !== null) state.psi = touch;
  settle(false);
  if (first) fit(); else if (whole) fitAgain(look, fit);
  if (through) glass();
}
/** Whether one looks at all of it, as at first. */
function framed() { return look.distance === look.whole && look.turn === D.turn && look.rise === D.rise; }
/** A state before, as lines; none: no more. */
function showBefore(data) {
  for (const g of ghosts) dropped(g.standing);
  ghosts = [];
  if (!data || data.pair !== D.pair) return;
  [data.driver, data.driven].forEach((was, i) => {
    const now = gears[i].data;
    if (was.points === now.points && coordinatesApart(was.origin, now.origin) < 1e-6 && coordinatesApart(was.axes, now.axes) < 1e-9) return;
    ghosts.push({ ...standingAt(was, ghostLines(edgesIn(was))), of: gears[i] });
  });
}
function shown() { return D; }
{
  const first = JSON.parse($('data').textContent);
  state.lastPush = first.ratio < 0 ? 1 : -1;
  take(first); showSpeed(); resize();  // which fits it into the window
}

// The roll in space, shown. All numbers come from the table that the roll wrote (D); between its positions they are
// interpolated. The driven stays where it is until a limit pushes it: that is how play is taken up.
const D = JSON.parse(document.getElementById('data').textContent);
const $ = id => document.getElementById(id);
const INK = '#3a3a40', FAINT = '#b9b7ae';
const pitch = D.driver.pitch, N = D.positions.length;
const state = { phi: D.driver.start, psi: D.driven.start, running: false, sense: 1, lastPush: 1 };

// ---- the scene -------------------------------------------------------------------------------------------------
const stage = $('space');
const { renderer, scene, camera, sun } = lit(stage);
function member(g, colour) {
  const shared = new THREE.BufferGeometry();
  shared.setAttribute('position', new THREE.BufferAttribute(decode(g.points, Float32Array), 3));
  shared.setIndex(new THREE.BufferAttribute(decode(g.triangles, Uint32Array), 1));
  const flat = shared.toNonIndexed();
  flat.computeVertexNormals();
  const mesh = new THREE.Mesh(flat, new THREE.MeshLambertMaterial({ color: colour, transparent: true, opacity: 1 }));
  const edges = new THREE.LineSegments(new THREE.EdgesGeometry(flat, 28), new THREE.LineBasicMaterial({ color: 0x3a3a40, transparent: true, opacity: 0.45 }));
  const turning = new THREE.Group(), standing = new THREE.Group();
  turning.add(mesh, edges);
  standing.add(turning);
  const m = g.axes;
  standing.matrixAutoUpdate = false;
  standing.matrix.set(m[0], m[1], m[2], g.origin[0], m[3], m[4], m[5], g.origin[1], m[6], m[7], m[8], g.origin[2], 0, 0, 0, 1);
  standing.updateMatrixWorld(true);
  const axis = new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(0, 0, g.axis[0]), new THREE.Vector3(0, 0, g.axis[1])]);
  const line = new THREE.Line(axis, new THREE.LineDashedMaterial({ color: 0x3a3a40, dashSize: 3, gapSize: 1.5 }));
  line.computeLineDistances();
  standing.add(line);
  scene.add(standing);
  return { standing, turning, mesh, data: g };
}
const gears = [member(D.driver, 0xd9a548), member(D.driven, 0x8a87b8)];
const dotShape = new THREE.SphereGeometry(D.dot, 20, 14), dots = [];
for (let i = 0; i < 12; i++) {
  const dot = new THREE.Mesh(dotShape, new THREE.MeshBasicMaterial({ color: 0x1d1d22, depthTest: false, transparent: true }));
  dot.renderOrder = 5; dot.visible = false;
  scene.add(dot); dots.push(dot);
}
// Where flanks touch along a line: a thin rod between its ends.
const rodShape = new THREE.CylinderGeometry(D.dot * 0.45, D.dot * 0.45, 1, 10), rods = [];
for (let i = 0; i < 8; i++) {
  const rod = new THREE.Mesh(rodShape, new THREE.MeshBasicMaterial({ color: 0x1d1d22, depthTest: false, transparent: true }));
  rod.renderOrder = 5; rod.visible = false;
  scene.add(rod); rods.push(rod);
}
const lineOfAction = new THREE.Line(new THREE.BufferGeometry(), new THREE.LineDashedMaterial({ color: 0x1d1d22, dashSize: 1, gapSize: 0.5, depthTest: false, transparent: true }));
scene.add(lineOfAction);

const look = { at: new THREE.Vector3(...D.centre), distance: D.size * 2.6, turn: D.turn, rise: D.rise };
function fit() { look.at.set(...D.centre); look.distance = D.size * 2.6; look.turn = D.turn; look.rise = D.rise; }
function near() { const p = contacts()[0] || D.pitch_point; look.at.set(p[0], p[1], p[2]); look.distance = D.size * 0.35; }
function resize() {
  const w = stage.clientWidth, h = stage.clientHeight, s = $('strip');
  renderer.setPixelRatio(window.devicePixelRatio || 1); renderer.setSize(w, h);
  camera.aspect = w / h; camera.updateProjectionMatrix();
  s.width = s.clientWidth * (window.devicePixelRatio || 1); s.height = s.clientHeight * (window.devicePixelRatio || 1);
  s.getContext('2d').setTransform(window.devicePixelRatio || 1, 0, 0, window.devicePixelRatio || 1, 0, 0);
  draw();
}
function contacts() {
  const row = D.positions[place(state.phi).i], side = state.lastPush > 0 ? 'u' : 'l', at = limit(side, state.phi);
  return at === null || Math.abs(at - state.psi) * D.arm > 1e-5 ? [] : row[side === 'u' ? 'cu' : 'cl'];
}
function draw() {
  gears[0].turning.rotation.z = state.phi; gears[1].turning.rotation.z = state.psi;
  const points = contacts();
  const ends = points.flatMap(p => p.length === 6 ? [p.slice(0, 3), p.slice(3)] : [p]), lines = points.filter(p => p.length === 6);
  dots.forEach((dot, i) => { dot.visible = i < ends.length; if (dot.visible) dot.position.set(...ends[i]); });
  rods.forEach((rod, i) => {
    rod.visible = i < lines.length;
    if (!rod.visible) return;
    const a = new THREE.Vector3(...lines[i].slice(0, 3)), b = new THREE.Vector3(...lines[i].slice(3)), way = b.clone().sub(a);
    rod.position.copy(a).addScaledVector(way, 0.5);
    rod.scale.set(1, way.length(), 1);
    rod.quaternion.setFromUnitVectors(new THREE.Vector3(0, 1, 0), way.normalize());
  });
  const a = D.action[state.lastPush > 0 ? 'u' : 'l'];
  lineOfAction.visible = a.length > 1;
  if (a.length > 1) { lineOfAction.geometry.setFromPoints(a.map(p => new THREE.Vector3(...p))); lineOfAction.computeLineDistances(); }
  camera.position.set(look.at.x + look.distance * Math.cos(look.rise) * Math.cos(look.turn), look.at.y + look.distance * Math.cos(look.rise) * Math.sin(look.turn), look.at.z + look.distance * Math.sin(look.rise));
  camera.near = look.distance / 200; camera.far = look.distance * 20; camera.updateProjectionMatrix();
  camera.lookAt(look.at);
  sun.position.copy(camera.position).add(new THREE.Vector3(look.distance * 0.4, 0, look.distance * 0.5));
  renderer.render(scene, camera);
  readings(); strip();
}
function readings() {
  const p = place(state.phi), row = D.positions[p.i], u = limit('u', state.phi), l = limit('l', state.phi);
  const gap = v => v === null ? 'open' : length((Math.abs(v) * D.arm < 5e-10 ? 0 : v * D.arm), 5);
  $('phi').textContent = degrees(state.phi); $('psi').textContent = degrees(state.psi);
  $('gap-upper').textContent = gap(u === null ? null : u - state.psi); $('gap-lower').textContent = gap(l === null ? null : state.psi - l);
  $('play-here').textContent = u === null || l === null ? 'open' : length((u - l) * D.working_radius, 6);
  $('pairs-here').textContent = String(row.n);
  const error = state.lastPush > 0 ? row.eu : row.el;
  $('te-here').textContent = error === null ? 'no contact' : smallError(error, 2);
  if (document.activeElement !== $('scrub')) $('scrub').value = (p.i + p.f) / N;
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
function run(on) { state.running = on; $('run').textContent = on ? 'Pause' : 'Turn'; if (on) { last = null; requestAnimationFrame(tick); } }
function step(n) { run(false); const p = place(state.phi); goTo(p.k, p.i + n); }
function goTo(k, i) { turnDriver(D.driver.start + pitch * (k + i / N)); draw(); }
function reverse() { state.sense = -state.sense; $('reverse').textContent = state.sense > 0 ? 'Reverse' : 'Forward'; showSpeed(); }
function showSpeed() { $('rpm').textContent = (state.sense * rpm()).toPrecision(2) + ' r/min of the driver'; }
let last = null;
function tick(time) {
  if (!state.running) return;
  if (last !== null) {
    const d = state.sense * rpm() * 2 * Math.PI / 60 * Math.min(0.1, (time - last) / 1000), steps = Math.max(1, Math.ceil(Math.abs(d) / (0.2 * pitch)));
    for (let n = 0; n < steps; n++) turnDriver(state.phi + d / steps);
    draw();
  }
  last = time;
  requestAnimationFrame(tick);
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
$('verdict').textContent = D.verdict.replace('_', ' ');
$('law').textContent = D.summary;
const touch = limit(D.ratio < 0 ? 'u' : 'l', state.phi);
if (touch !== null) { state.psi = touch; state.lastPush = D.ratio < 0 ? 1 : -1; }
settle(false); showSpeed(); resize();

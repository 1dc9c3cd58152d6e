// What pages in space share.
function decode(text, Type) {
  const raw = atob(text), bytes = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i);
  return new Type(bytes.buffer);
}
/** The library renamed this once. */
function inverseOf(m) { const r = new THREE.Matrix4(); return r.invert ? r.copy(m).invert() : r.getInverse(m); }
/** A scene on our paper, z upwards, with light from above and a sun that the page moves. */
function lit(stage) {
  const renderer = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
  renderer.setClearColor(0xfbfaf6);
  renderer.domElement.setAttribute('aria-label', 'the solids in space');
  stage.appendChild(renderer.domElement);
  const scene = new THREE.Scene(), camera = new THREE.PerspectiveCamera(28, 1, 0.1, 100000), sun = new THREE.DirectionalLight(0xffffff, 0.55);
  camera.up.set(0, 0, 1);
  scene.add(new THREE.HemisphereLight(0xffffff, 0xcfccc0, 0.85), sun);
  return { renderer, scene, camera, sun };
}
/** Edges of a closed shape whose two faces stand at more than some 25° to each other. */
function edgesOf(points, triangles) {
  const n = triangles.length / 3, normals = new Float32Array(3 * n), first = new Map(), count = points.length / 3, lines = [];
  for (let t = 0; t < n; t++) {
    const [a, b, c] = [0, 1, 2].map(i => 3 * triangles[3 * t + i]);
    const ux = points[b] - points[a], uy = points[b + 1] - points[a + 1], uz = points[b + 2] - points[a + 2];
    const vx = points[c] - points[a], vy = points[c + 1] - points[a + 1], vz = points[c + 2] - points[a + 2];
    const x = uy * vz - uz * vy, y = uz * vx - ux * vz, z = ux * vy - uy * vx, size = Math.hypot(x, y, z) || 1;
    normals[3 * t] = x / size; normals[3 * t + 1] = y / size; normals[3 * t + 2] = z / size;
  }
  for (let t = 0; t < n; t++) {
    for (let i = 0; i < 3; i++) {
      const a = triangles[3 * t + i], b = triangles[3 * t + (i + 1) % 3], key = a < b ? a * count + b : b * count + a, other = first.get(key);
      if (other === undefined) { first.set(key, t); continue; }
      first.delete(key);
      const dot = normals[3 * t] * normals[3 * other] + normals[3 * t + 1] * normals[3 * other + 1] + normals[3 * t + 2] * normals[3 * other + 2];
      if (dot < 0.9) for (const p of [a, b]) lines.push(points[3 * p], points[3 * p + 1], points[3 * p + 2]);
    }
  }
  return new Float32Array(lines);
}
/** What was before, as lines: those that show, and fainter those that lie within what is. */
function ghostLines(edges) {
  const group = new THREE.Group();
  for (const [depthTest, opacity] of [[true, 0.9], [false, 0.28]]) {
    const lines = new THREE.LineSegments(edges, new THREE.LineBasicMaterial({ color: 0x1d1d22, transparent: true, opacity, depthTest }));
    lines.renderOrder = 4;
    group.add(lines);
  }
  return group;
}
/** How far two places, or two directions, lie apart, by their coordinates. */
const coordinatesApart = (a, b) => Math.max(...a.map((v, k) => Math.abs(v - b[k])));
/** Takes out of the scene what is shown no longer. What it held is given back after the next picture: programs that the
    new parts use too need not be made again. */
const spent = [];
function dropped(node) {
  if (node.parent) node.parent.remove(node);
  spent.push(node);
}
function pictured(renderer, scene, camera) {
  renderer.render(scene, camera);
  if (!spent.length) return;
  const used = new Set();
  scene.traverse(n => used.add(n.geometry));
  for (const node of spent.splice(0)) node.traverse(n => { if (n.geometry && !used.has(n.geometry)) n.geometry.dispose(); if (n.material) n.material.dispose(); });
}
/** Points of a box in a frame, of what turns about its z axis on the circles around it. */
function boxCorners(into, box, matrix, round) {
  const r = Math.max(box.max.x, -box.min.x, box.max.y, -box.min.y), add = (x, y, z) => into.push(new THREE.Vector3(x, y, z).applyMatrix4(matrix));
  for (const z of [box.min.z, box.max.z]) {
    if (round) for (let i = 0; i < 24; i++) add(r * Math.cos(i * Math.PI / 12), r * Math.sin(i * Math.PI / 12), z);
    else for (const x of [box.min.x, box.max.x]) for (const y of [box.min.y, box.max.y]) add(x, y, z);
  }
}
/** Fits anew where what there is now does not fill the picture or stands out of it; a little more or less is no reason to
    move. */
function fitAgain(look, fit) {
  const before = { at: look.at.clone(), distance: look.distance, whole: look.whole };
  fit();
  if (look.distance < 1.02 * before.distance && look.distance > 0.8 * before.distance) { look.at.copy(before.at); look.distance = before.distance; look.whole = before.whole; }
}
const towardsEye = look => new THREE.Vector3(Math.cos(look.rise) * Math.cos(look.turn), Math.cos(look.rise) * Math.sin(look.turn), Math.sin(look.rise));
/** Looks so that all the points are in the picture, and fill it; how far off that is. */
function frame(look, camera, corners) {
  const towards = towardsEye(look), side = new THREE.Vector3(-Math.sin(look.turn), Math.cos(look.turn), 0), up = towards.clone().cross(side);
  const half = Math.tan(camera.fov * Math.PI / 360), box = new THREE.Box3().setFromPoints(corners);
  box.getCenter(look.at);
  for (let round = 0; round < 4; round++) {
    let distance = 0, low = Infinity, high = -Infinity, left = Infinity, right = -Infinity;
    for (const c of corners) {
      const v = c.clone().sub(look.at), near = v.dot(towards);
      distance = Math.max(distance, near + Math.max(Math.abs(v.dot(up)), Math.abs(v.dot(side)) / camera.aspect) / half);
    }
    for (const c of corners) {
      const v = c.clone().sub(look.at), depth = 1 - v.dot(towards) / distance, x = v.dot(side) / depth, y = v.dot(up) / depth;
      left = Math.min(left, x); right = Math.max(right, x); low = Math.min(low, y); high = Math.max(high, y);
    }
    look.distance = 1.05 * distance;
    if (round < 3) look.at.addScaledVector(side, (left + right) / 2).addScaledVector(up, (low + high) / 2);
  }
  return look.distance;
}

// A whole machine in space: what mechanism.js finds, shown, and hands on every part of it.
let D = null, mechanism, shapes = [], parts = [], arms = [], carriers = [], ghosts = [];
const $ = id => document.getElementById(id);
const TAU = 2 * Math.PI, calm = matchMedia('(prefers-reduced-motion: reduce)').matches;
const state = { train: null, running: false, sense: 1, chosen: null, apart: 0, cut: 0 };

// ---- the scene -------------------------------------------------------------------------------------------------
const stage = $('space');
const { renderer, scene, camera, sun } = lit(stage);
renderer.localClippingEnabled = true;
const plane = new THREE.Plane(new THREE.Vector3(0, 1, 0), 0);

const shapeOf = s => {
  if (s.made) return s.made;  // kept with it: a ghost of it may be shown later
  const whole = decode(s.points, Uint16Array), points = new Float32Array(whole.length);
  for (let i = 0; i < whole.length; i++) points[i] = s.least[i % 3] + s.step * whole[i];
  const triangles = decode(s.triangles, s.wide ? Uint32Array : Uint16Array);
  const solid = new THREE.BufferGeometry(), edges = new THREE.BufferGeometry();
  solid.setAttribute('position', new THREE.BufferAttribute(points, 3));
  solid.setIndex(new THREE.BufferAttribute(triangles, 1));
  solid.computeBoundingBox(); solid.computeBoundingSphere();
  edges.setAttribute('position', new THREE.BufferAttribute(edgesOf(points, triangles), 3));
  s.made = { solid, edges };
  return s.made;
};
/** What a cut shows of the inside: flat, hatched on the screen. */
function inside(colour) {
  const m = new THREE.MeshBasicMaterial({ color: colour, side: THREE.BackSide, clippingPlanes: [plane] });
  m.onBeforeCompile = shader => {
    shader.fragmentShader = shader.fragmentShader.replace('#include <fog_fragment>', '#include <fog_fragment>\n  if (mod(gl_FragCoord.x + gl_FragCoord.y, 9.0) < 1.6) gl_FragColor.rgb *= 0.62;');
  };
  return m;
}
function partOf(data) {
  const colour = new THREE.Color(data.colour), { solid, edges } = shapes[data.shape];
  const mesh = new THREE.Mesh(solid, new THREE.MeshPhongMaterial({ color: colour, specular: 0, flatShading: true, transparent: true, opacity: 1, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
  const back = new THREE.Mesh(solid, inside(colour.clone().lerp(new THREE.Color(0xffffff), 0.25)));
  back.visible = false;
  const lines = new THREE.LineSegments(edges, new THREE.LineBasicMaterial({ color: 0x3a3a40, transparent: true, opacity: 0.45 }));
  const group = new THREE.Group();
  group.add(mesh, back, lines);
  group.matrixAutoUpdate = false;
  scene.add(group);
  const start = startOf(data);
  const part = { data, mesh, back, lines, group, start, through: false, apart: 0 };
  mesh.userData.part = part;
  return part;
}
/** How it stands where the roll begins. */
const startOf = ({ axes: m, at }) => new THREE.Matrix4().set(m[0], m[1], m[2], at[0], m[3], m[4], m[5], at[1], m[6], m[7], m[8], at[2], 0, 0, 0, 1);
// Parts are pulled apart along the axis of their group: what stands lower further down, of one height member by member.
function layApart() {
  for (const g of new Set(D.parts.map(p => p.group))) {
    const own = parts.filter(p => p.data.group === g), first = own[0].start.elements, axis = new THREE.Vector3(first[8], first[9], first[10]);
    const height = p => new THREE.Vector3(p.start.elements[12], p.start.elements[13], p.start.elements[14]).dot(axis);
    const rank = p => [Math.round(1e3 * height(p)), p.data.member === undefined ? -1 : p.data.member];
    const ranks = [...new Map(own.map(p => [rank(p).join(), rank(p)])).values()].sort((a, b) => a[0] - b[0] || a[1] - b[1]).map(r => r.join());
    const most = Math.max(...own.map(p => { const box = shapes[p.data.shape].solid.boundingBox; return box.max.z - box.min.z; }));
    for (const p of own) { p.axis = axis; p.apart = (ranks.indexOf(rank(p).join()) - (ranks.length - 1) / 2) * 2 * most; }
  }
}
// What carries planets has no body: a line from axis to axis.
const armOf = p => {
  const arm = new THREE.Line(new THREE.BufferGeometry().setFromPoints([new THREE.Vector3(), new THREE.Vector3()]), new THREE.LineBasicMaterial({ color: 0x3a3a40 }));
  scene.add(arm);
  return { arm, part: p };
};
const MOST_DOTS = 1200, dotPlaces = new Float32Array(3 * MOST_DOTS);
const round = document.createElement('canvas');
round.width = round.height = 32;
round.getContext('2d').arc(16, 16, 15, 0, TAU); round.getContext('2d').fillStyle = '#fff'; round.getContext('2d').fill();
const dots = new THREE.Points(new THREE.BufferGeometry(), new THREE.PointsMaterial({ color: 0x1d1d22, map: new THREE.CanvasTexture(round), size: 6, sizeAttenuation: false, depthTest: false, transparent: true }));
dots.geometry.setAttribute('position', new THREE.BufferAttribute(dotPlaces, 3));
dots.frustumCulled = false; dots.renderOrder = 6;
const touchLines = new THREE.LineSegments(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ color: 0x1d1d22, depthTest: false, transparent: true }));
const linePlaces = new Float32Array(3 * MOST_DOTS);
touchLines.geometry.setAttribute('position', new THREE.BufferAttribute(linePlaces, 3));
touchLines.frustumCulled = false; touchLines.renderOrder = 6;
scene.add(dots, touchLines);

// ---- where everything stands -----------------------------------------------------------------------------------
const about = (at, along, angle) => {
  const back = new THREE.Matrix4().makeTranslation(-at.x, -at.y, -at.z), turn = new THREE.Matrix4().makeRotationAxis(along, angle);
  return new THREE.Matrix4().makeTranslation(at.x, at.y, at.z).multiply(turn).multiply(back);
};
const rounded = (c, angle) => about(carriers[c].at, carriers[c].along, angle);
const q = m => mechanism.q[m];
/** How a part stands now: its start, moved. */
function placed(p) {
  const d = p.data, own = new THREE.Matrix4();
  let m = p.start.clone();
  if (d.moves === 'disc') {
    const k = D.reducers[d.reducer], mesh = D.meshes[k], input = mesh.driver[0][0], z = new THREE.Vector3(0, 0, 1);
    const turn = d.times * (mesh.ratio * q(input) + mechanism.discBeyond(k, d.disc));
    // Its middle goes round with the input, its own turn is that of the disc.
    const e = p.start.elements, at = new THREE.Vector3(e[12] - d.centre[0], e[13] - d.centre[1], e[14]).applyAxisAngle(z, q(input));
    m.multiply(own.makeRotationZ(turn));
    m.setPosition(new THREE.Vector3(d.centre[0] + at.x, d.centre[1] + at.y, at.z));
  } else if (d.moves) {
    m.multiply(own.makeRotationZ(d.times * q(d.member)));
  } else if (d.member !== undefined && D.members[d.member].slides) {
    m.multiply(own.makeTranslation(q(d.member), 0, 0));
  } else if (d.member !== undefined) {
    const c = d.carrier === undefined ? null : carriers[d.carrier];
    m.multiply(own.makeRotationZ(d.sense * (q(d.member) - (c && !d.inclined ? q(c.member) : 0))));
    if (c) m = rounded(d.carrier, q(c.member)).multiply(m);
  }
  if (state.apart) m = new THREE.Matrix4().makeTranslation(...p.axis.clone().multiplyScalar(state.apart * p.apart).toArray()).multiply(m);
  return m;
}
function place() {
  for (const p of parts) { p.group.matrix.copy(placed(p)); p.group.matrixWorldNeedsUpdate = true; }
  for (const { arm, part } of arms) {
    const c = carriers[part.data.carrier], e = part.group.matrix.elements, end = new THREE.Vector3(e[12], e[13], e[14]), foot = c.at.clone();
    foot.addScaledVector(c.along, end.clone().sub(foot).dot(c.along));
    const a = arm.geometry.attributes.position;
    a.setXYZ(0, foot.x, foot.y, foot.z); a.setXYZ(1, end.x, end.y, end.z); a.needsUpdate = true;
    arm.geometry.computeBoundingSphere();
    arm.visible = part.group.visible;
  }
  for (const g of ghosts) {
    Object.assign(g, { apart: g.part.apart, axis: g.part.axis });
    g.group.matrix.copy(placed(g)); g.group.matrixWorldNeedsUpdate = true;
    g.group.visible = g.part.group.visible && !state.cut;
  }
}
/** Contacts now, in the world, of one mesh or of all: points, and pairs of points that are lines. Further within than what
    touches: where the flanks would. */
function contacts(of, within = 2e-5) {
  const all = { points: [], lines: [] };
  D.meshes.forEach((mesh, k) => {
    if (of !== undefined && of !== k) return;
    for (const { round, flat } of mechanism.touching(k, within)) {
      const into = mesh.lines ? all.lines : all.points;
      const turn = mesh.rides === null ? null : rounded(mesh.rides, q(carriers[mesh.rides].member) + round);
      for (let i = 0; i < flat.length; i += 3) {
        const p = new THREE.Vector3(flat[i], flat[i + 1], flat[i + 2]);
        into.push(turn ? p.applyMatrix4(turn) : p);
      }
    }
  });
  return all;
}
function markContacts() {
  const all = state.apart ? { points: [], lines: [] } : contacts(), left = p => !state.cut || plane.distanceToPoint(p) > -1e-3;
  const points = all.points.filter(left), lines = all.lines.filter((p, i) => left(p) && left(all.lines[i ^ 1])), dotted = points.concat(lines).slice(0, MOST_DOTS);
  dotted.forEach((p, i) => p.toArray(dotPlaces, 3 * i));
  lines.slice(0, MOST_DOTS).forEach((p, i) => p.toArray(linePlaces, 3 * i));
  dots.geometry.setDrawRange(0, dotted.length); dots.geometry.attributes.position.needsUpdate = true;
  touchLines.geometry.setDrawRange(0, Math.min(lines.length, MOST_DOTS)); touchLines.geometry.attributes.position.needsUpdate = true;
  dots.material.size = look.distance < 0.5 * look.whole ? 9 : stage.clientWidth < 600 ? 4 : 6;
}

// ---- looking ---------------------------------------------------------------------------------------------------
const look = { at: new THREE.Vector3(), distance: 1, whole: 1, turn: -0.94, rise: 0.6 };
const corners = [];
function remember() {  // a few points of every part, to frame what shows
  corners.length = 0;
  for (const p of parts) {
    if (!p.group.visible) continue;
    boxCorners(corners, shapes[p.data.shape].solid.boundingBox, p.group.matrix, p.data.member !== undefined && !D.members[p.data.member].slides);
  }
}
const eyeward = () => towardsEye(look);
/** Everything that shows is in the picture, and fills it. */
function fit() {
  remember();
  if (corners.length) look.whole = frame(look, camera, corners);
}
/** Close up at a contact, in the mesh nearest to what is chosen, seen nearly along the axis and at the end that faces us. */
function near() {
  const chosen = parts[state.chosen], middle = p => new THREE.Vector3(p.group.matrix.elements[12], p.group.matrix.elements[13], p.group.matrix.elements[14]);
  const from = chosen ? middle(chosen) : look.at, shown = p => !state.cut || plane.distanceToPoint(p) > 0;
  const of = within => D.meshes.map((mesh, k) => { const { points, lines } = contacts(k, within); return points.concat(lines).filter(shown); }).filter(all => all.length);
  let meshes = of(undefined);
  if (!meshes.length) meshes = of(Infinity);  // nothing touches yet: where it would
  if (!meshes.length) return;
  const nearest = all => Math.min(...all.map(p => p.distanceTo(from)));
  const all = meshes.sort((a, b) => nearest(a) - nearest(b))[0];
  // The part whose axis is followed: what is chosen, or what stands nearest.
  const part = chosen && chosen.data.member !== undefined ? chosen : parts.filter(p => p.data.member !== undefined).sort((a, b) => middle(a).distanceTo(all[0]) - middle(b).distanceTo(all[0]))[0];
  if (part) {
    const axis = new THREE.Vector3(part.group.matrix.elements[8], part.group.matrix.elements[9], part.group.matrix.elements[10]);
    if (axis.dot(eyeward()) < 0) axis.negate();
    all.sort((a, b) => b.dot(axis) - a.dot(axis));
    look.rise = Math.max(-1.4, Math.min(1.4, Math.asin(Math.max(-1, Math.min(1, axis.z)))));
    if (Math.hypot(axis.x, axis.y) > 0.1) look.turn = Math.atan2(axis.y, axis.x) + 0.2;
  }
  look.at.copy(all[0]); look.distance = 16 * Math.max(...D.meshes.map(m => m.dot), 0.05) / 0.12;
}
function resize() {
  renderer.setPixelRatio(window.devicePixelRatio || 1); renderer.setSize(stage.clientWidth, stage.clientHeight);
  camera.aspect = stage.clientWidth / Math.max(1, stage.clientHeight); camera.updateProjectionMatrix();
}
function aimCut() {
  const box = new THREE.Box3().setFromPoints(corners), size = box.getSize(new THREE.Vector3()).multiplyScalar(0.5), at = box.getCenter(new THREE.Vector3()), share = Number($('where').value);
  if (state.cut === 1) {  // upright, facing who looks, through the chosen part's axis where one is chosen
    const n = Math.abs(Math.cos(look.turn)) > Math.abs(Math.sin(look.turn)) ? new THREE.Vector3(-Math.sign(Math.cos(look.turn)), 0, 0) : new THREE.Vector3(0, -Math.sign(Math.sin(look.turn)), 0);
    const chosen = parts[state.chosen], e = chosen && chosen.group.matrix.elements;
    if (e) at.set(e[12], e[13], e[14]);
    plane.setFromNormalAndCoplanarPoint(n, at.addScaledVector(n, share * Math.abs(n.dot(size))));
  } else {
    const n = new THREE.Vector3(0, 0, look.rise < 0 ? 1 : -1);
    plane.setFromNormalAndCoplanarPoint(n, at.addScaledVector(n, share * size.z));
  }
}
let taking = false;  // another state: one picture of it when all of it is there
function draw() {
  if (taking) return;
  place();
  if (state.cut) aimCut();
  markContacts();
  camera.position.copy(look.at).addScaledVector(eyeward(), look.distance);
  camera.near = Math.max(look.distance / 200, (look.distance - 2 * look.whole) / 2); camera.far = look.distance + 4 * look.whole; camera.updateProjectionMatrix();
  camera.lookAt(look.at);
  sun.position.copy(camera.position).add(new THREE.Vector3(look.distance * 0.4, 0, look.distance * 0.5));
  pictured(renderer, scene, camera);
  tell();
}

// ---- numbers ---------------------------------------------------------------------------------------------------
const input = () => state.train.input, output = () => state.train.output;
const amount = (m, v, digits) => D.members[m].slides ? length(v, digits) : degrees(v, digits);
const rowOf = new Map();
/** How far the output stands behind the even ratio, of what it may. */
function tell() {
  for (const [m, row] of rowOf) row.cells[3].textContent = amount(m, q(m), D.members[m].slides ? 3 : 2);
  const share = q(input()) / D.members[input()].unit;
  if (document.activeElement !== $('scrub')) $('scrub').value = share - Math.floor(share);
  const t = state.train;
  if (t.play) {
    const even = q(input()) / D.members[input()].unit / t.ratio_value * D.members[output()].unit, off = q(output()) - even;
    const of = t.play[1] - t.play[0] < 1e-3 * Math.abs(t.play[1]) ? amount(output(), t.play[1], 4) : amount(output(), t.play[0], 4) + ' to ' + amount(output(), t.play[1], 4);
    $('play').textContent = `Play at ${D.members[output()].name}: ${of}; it stands ${Math.abs(off) < 1e-9 ? 'at' : amount(output(), Math.abs(off), 4) + (off < 0 ? ' behind' : ' ahead of')} the even ratio`;
  } else $('play').textContent = '';
  $('told').textContent = mechanism.stopped ? `Nothing turns: ${mechanism.stopped} stands in the way` : '';
  $('told').className = mechanism.stopped ? 'stopped' : '';
}
function table() {
  const body = $('members').tBodies[0];
  D.order.forEach((m, i) => {
    const row = body.insertRow(), member = D.members[m];
    row.tabIndex = 0;
    row.insertCell().textContent = i + 1;
    const name = row.insertCell();
    name.textContent = member.name;
    if (member.on && member.on.split(' ')[0] + ' ' !== member.name + ' ') { const small = document.createElement('small'); small.textContent = member.on; name.append(small); }
    else if (member.on) name.textContent = member.on;
    row.insertCell(); row.insertCell();
    row.onclick = () => choose(parts.findIndex(p => p.data.member === m), m);
    row.onkeydown = e => {
      if (e.key === 'Enter') row.onclick();
      if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
      e.preventDefault(); e.stopPropagation(); run(false);
      mechanism.turn(m, q(m) + (e.key === 'ArrowLeft' ? -1 : 1) * (member.slides ? 0.1 * member.unit : TAU / 360)); draw();
    };
    rowOf.set(m, row);
  });
}
function pickTrain(i) {
  const t = state.train = D.trains[i];
  mechanism.held = new Set(t.held); mechanism.loaded = t.output === t.input ? null : t.output;
  $('words').textContent = t.locked ? 'It cannot turn: its meshes lock each other.' : t.words || '';
  for (const [m, row] of rowOf) {
    const v = t.turns[m];
    row.cells[2].textContent = t.held.includes(m) ? 'held' : !v ? '–' : v[0].length <= 12 ? v[0] : Number(v[1].toPrecision(6));
  }
  $('of-turns').textContent = 'per turn of ' + (D.order.indexOf(t.input) + 1);
  showSpeed(); draw();
}
function choose(i, member) {
  state.chosen = i < 0 ? null : i;
  const part = parts[state.chosen];
  for (const p of parts) { p.mesh.material.emissive.setHex(p === part ? 0x1c1004 : 0); p.lines.material.opacity = p === part ? 1 : p.through ? 0.2 : 0.45; }
  const m = member !== undefined ? member : part && part.data.member;
  for (const [n, row] of rowOf) row.className = n === m ? 'chosen' : '';
  $('chosen').hidden = !part;
  $('numbers-of').textContent = '';
  if (part) {
    $('chosen-name').textContent = part.data.name;
    const gears = part.data.gear !== undefined ? [part.data.gear] : part.data.gears || [];
    if (gears.length) {
      const t = document.createElement('table');
      t.id = 'numbers';
      for (const [label, value] of gears.flatMap(g => (gears.length > 1 ? [[D.gear_names[g], '']] : []).concat(D.gears[g]))) { const r = t.insertRow(); r.insertCell().textContent = label; r.insertCell().textContent = value; }
      $('numbers-of').append(t);
    }
  }
  showButtons(); draw();
}
function showButtons() {
  const part = parts[state.chosen];
  if (part) { $('hide').textContent = part.group.visible ? 'Hide' : 'Show'; $('clear').textContent = part.through ? 'Solid' : 'See through'; }
  $('all').hidden = parts.every(p => p.group.visible && !p.through);
}
function see(part, through) {
  part.through = through;
  part.mesh.material.opacity = through ? 0.22 : 1; part.mesh.material.depthWrite = !through;
  part.lines.material.opacity = through ? 0.2 : 0.45;
}
const hide = () => { const p = parts[state.chosen]; if (p) { p.group.visible = !p.group.visible; showButtons(); draw(); } };
const clear = () => { const p = parts[state.chosen]; if (p) { see(p, !p.through); showButtons(); draw(); } };
const only = () => { const p = parts[state.chosen]; if (p) { for (const o of parts) o.group.visible = o === p || o.data.member !== undefined && o.data.member === p.data.member; showButtons(); fit(); draw(); } };
const show = () => { for (const p of parts) { p.group.visible = true; see(p, false); } showButtons(); fit(); draw(); };

// ---- hands -----------------------------------------------------------------------------------------------------
const rpm = () => Math.pow(10, Number($('speed').value));
const ray = new THREE.Raycaster(), fingers = new Map();
let grip = null;
function hitAt(e) {
  const b = renderer.domElement.getBoundingClientRect();
  ray.setFromCamera(new THREE.Vector2((e.clientX - b.left) / b.width * 2 - 1, 1 - (e.clientY - b.top) / b.height * 2), camera);
  const seen = ray.intersectObjects(parts.filter(p => p.group.visible).map(p => p.mesh)).filter(h => !state.cut || plane.distanceToPoint(h.point) > 0);
  return seen.find(h => !h.object.userData.part.through) || seen[0];
}
/** Where a point of the world is on the screen [px]. */
function onScreen(p) {
  const v = p.clone().project(camera);
  return new THREE.Vector2(v.x * stage.clientWidth / 2, -v.y * stage.clientHeight / 2);
}
/** A hand on a part: which member it moves, and how a point of it goes with that member's coordinate. */
function gripOf(hit) {
  const p = hit.object.userData.part, d = p.data;
  if (d.member === undefined) return null;
  let member = d.member, sense = d.moves ? d.times : d.sense;
  const e = p.group.matrix.elements;
  let at = new THREE.Vector3(e[12], e[13], e[14]), along = new THREE.Vector3(e[8], e[9], e[10]);
  if (D.members[member].slides) {
    const way = new THREE.Vector3(e[0], e[1], e[2]);
    return { member, part: p, point: hit.point.clone(), way: () => way };
  }
  if (d.moves === 'disc') { at = new THREE.Vector3(d.centre[0], d.centre[1], 0); along.set(0, 0, 1); sense = 1; }
  if (d.carrier !== undefined) {
    // Near its own axis a planet is taken along, further out it is turned.
    const c = carriers[d.carrier], own = hit.point.clone().sub(at), r = own.sub(along.clone().multiplyScalar(own.dot(along))).length();
    const box = shapes[d.shape].solid.boundingBox;
    if (r < 0.45 * box.max.x) { member = c.member; at = c.at; along = c.along; sense = 1; }
  }
  const way = point => along.clone().cross(point.clone().sub(at)).multiplyScalar(sense);
  return { member, part: p, point: hit.point.clone(), way, at, along, sense };
}
function pull(dx, dy) {
  const way = grip.way(grip.point), size = D.members[grip.member].slides ? 1 : 1e-4;
  const a = onScreen(grip.point), b = onScreen(grip.point.clone().addScaledVector(way, size)).sub(a).divideScalar(size), along = b.lengthSq();
  if (along < 1e-6) return;
  const most = D.members[grip.member].slides ? 0.5 * D.members[grip.member].unit : 0.3;
  const move = Math.max(-most, Math.min(most, (dx * b.x + dy * b.y) / along));
  if (!steps(grip.member, move)) return;
  if (grip.at) grip.point.applyMatrix4(about(grip.at, grip.along, grip.sense * move)); else grip.point.addScaledVector(way, move);
}
/** In steps so small that limits are followed. */
function steps(member, move) {
  const finest = D.members[member].slides ? 0.1 * D.members[member].unit : 0.02, n = Math.min(60, Math.max(1, Math.ceil(Math.abs(move) / finest)));
  for (let i = 0; i < n; i++) if (!mechanism.turn(member, q(member) + move / n)) return false;
  return true;
}
function orbit(dx, dy) { look.turn -= dx * 0.006; look.rise = Math.max(-1.5, Math.min(1.5, look.rise + dy * 0.006)); }
function shift(dx, dy) {
  const per = 2 * look.distance * Math.tan(camera.fov * Math.PI / 360) / stage.clientHeight, towards = eyeward();
  const side = new THREE.Vector3(-Math.sin(look.turn), Math.cos(look.turn), 0), up = towards.clone().cross(side);
  look.at.addScaledVector(side, -dx * per).addScaledVector(up, dy * per);
}
const zoom = by => { look.distance = Math.max(look.whole / 500, Math.min(look.whole * 6, look.distance * by)); };
stage.addEventListener('pointerdown', e => {
  stage.setPointerCapture(e.pointerId); stage.focus({ preventScroll: true });
  fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
  if (fingers.size > 1) { grip = null; return; }
  const hit = e.button === 0 && !e.shiftKey ? hitAt(e) : null;
  grip = { x: e.clientX, y: e.clientY, moved: 0, hit, shift: e.button !== 0 || e.shiftKey };
  const on = hit && gripOf(hit);
  if (on) { run(false); Object.assign(grip, on); }
});
stage.addEventListener('pointermove', e => {
  const before = fingers.get(e.pointerId);
  if (!before) return;
  const dx = e.clientX - before.x, dy = e.clientY - before.y;
  if (fingers.size === 2) {
    const other = [...fingers].find(([id]) => id !== e.pointerId)[1], apart = p => Math.hypot(p.x - other.x, p.y - other.y);
    zoom(Math.max(apart(before), 1) / Math.max(apart({ x: e.clientX, y: e.clientY }), 1)); shift(dx / 2, dy / 2);
  } else if (grip) {
    grip.moved += Math.hypot(dx, dy);
    if (grip.member !== undefined) { if (grip.moved > 2) pull(dx, dy); } else if (grip.shift) shift(dx, dy); else orbit(dx, dy);
  }
  fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
  draw();
});
for (const end of ['pointerup', 'pointercancel']) stage.addEventListener(end, e => {
  fingers.delete(e.pointerId);
  if (grip && grip.moved < 4 && end === 'pointerup' && !grip.shift) choose(grip.hit ? parts.indexOf(grip.hit.object.userData.part) : -1);
  grip = null;
});
stage.addEventListener('contextmenu', e => e.preventDefault());
stage.addEventListener('wheel', e => { e.preventDefault(); zoom(Math.exp(e.deltaY * 0.0012)); draw(); }, { passive: false });

function drive(turns) {
  if (!steps(input(), turns * D.members[input()].unit)) run(false);
  draw();
}
if (calm) motion.pace = 500;  // who asked for less motion sees the machine step, twice a second
function advance(seconds) { drive(state.sense * rpm() / 60 * seconds); }
function step(n) { run(false); drive(n * (D.members[input()].slides ? 0.1 : 1 / 360)); }
function reverse() { state.sense = -state.sense; $('reverse').textContent = state.sense > 0 ? 'Reverse' : 'Forward'; showSpeed(); }
function showSpeed() {
  const m = D.members[input()];
  $('rpm').textContent = `${plain(state.sense * rpm(), rpm() < 10 ? 2 : 0)} ${m.slides ? 'pitches' : 'r'}/min`;
  $('rpm').title = 'of ' + m.name;
}
function cut() {
  state.cut = (state.cut + 1) % 3;
  $('cut').textContent = 'Cut: ' + ['off', 'upright', 'level'][state.cut]; $('where').hidden = !state.cut;
  clip(); draw();
}
function clip() {
  for (const p of parts) {
    p.back.visible = state.cut > 0 && !p.through;
    for (const m of [p.mesh.material, p.lines.material]) { m.clippingPlanes = state.cut ? [plane] : []; m.needsUpdate = true; }
  }
  remember();
}
$('run').onclick = () => run(!state.running);
$('back').onclick = () => step(-1);
$('forth').onclick = () => step(1);
$('reverse').onclick = reverse;
$('cut').onclick = cut;
$('where').oninput = draw;
$('near').onclick = () => { near(); draw(); };
$('fit').onclick = () => { look.turn = -0.94; look.rise = 0.6; fit(); draw(); };
$('speed').oninput = showSpeed;
$('scrub').oninput = () => {
  run(false);
  const m = D.members[input()], turns = q(input()) / m.unit;
  drive(Math.floor(turns) + Number($('scrub').value) * (1 - 1e-9) - turns);
};
$('apart').oninput = () => { state.apart = Number($('apart').value); place(); fit(); draw(); };
$('train').onchange = () => { run(false); pickTrain($('train').selectedIndex); };
$('hide').onclick = hide; $('clear').onclick = clear; $('only').onclick = only; $('show').onclick = show;
document.addEventListener('keydown', e => {
  if (['INPUT', 'SELECT'].includes(e.target.tagName) && (e.key.startsWith('Arrow') || e.key.length === 1 && e.target.tagName === 'SELECT')) return;
  if (e.ctrlKey || e.metaKey || e.altKey || (e.target.tagName === 'BUTTON' || e.target.tagName === 'SUMMARY') && e.key === ' ') return;
  const keys = { ' ': () => run(!state.running), ArrowLeft: () => step(-1), ArrowRight: () => step(1), r: reverse, x: cut, h: hide, g: clear,
                 v: show, a: () => { orbit(-20, 0); draw(); }, d: () => { orbit(20, 0); draw(); }, w: () => { orbit(0, 20); draw(); }, s: () => { orbit(0, -20); draw(); },
                 c: () => $('near').click(), 0: () => $('fit').click(), '+': () => { zoom(1 / 1.2); draw(); }, '-': () => { zoom(1.2); draw(); } };
  if (keys[e.key]) { e.preventDefault(); keys[e.key](); }
});
window.addEventListener('resize', () => { resize(); if (look.distance === look.whole) fit(); draw(); });

const sameMembers = (a, b) => a.members.length === b.members.length && a.members.every((m, i) => m.name === b.members[i].name);
/** Another state of the machine, or the first: it goes on turning where it stands, seen as it is seen. */
function take(data) {
  const old = D, kept = old && { q: mechanism.q, train: state.train.name, chosen: parts[state.chosen], seen: new Map(parts.map(p => [p.data.name, p])), whole: look.distance === look.whole };
  taking = true;
  showBefore(null);
  for (const node of [...parts.map(p => p.group), ...arms.map(a => a.arm)]) dropped(node);
  D = data;
  for (const s of old ? D.shapes : []) { const was = old.shapes.find(o => o.points === s.points && o.triangles === s.triangles && o.step === s.step); if (was) s.made = was.made; }
  shapes = D.shapes.map(shapeOf);
  mechanism = new Mechanism(D);
  carriers = D.carriers.map(c => ({ member: c.member, at: new THREE.Vector3(...c.at), along: new THREE.Vector3(...c.along) }));
  parts = D.parts.map(partOf);
  arms = parts.filter(p => p.data.carrier !== undefined).map(armOf);
  layApart();
  $('verdict').textContent = D.verdict.replace('_', ' ');
  // What the report begins with stands at the head; where something cannot work, all of it is open.
  const said = D.said.split('\n').map(line => line.replace(/^  /, ''));
  $('law').textContent = said[0]; document.querySelector('.stamp').textContent = D.stamp;
  $('said').textContent = said.slice(1).join('\n');
  $('said').parentElement.open = said[0].startsWith('it cannot');
  $('train').replaceChildren(...D.trains.map(t => { const o = document.createElement('option'); o.textContent = t.name || 'from ' + D.members[t.input].name; return o; }));
  $('train').parentElement.hidden = D.trains.length === 1 && !D.trains[0].name;
  if (D.plan) $('plan').src = 'data:image/svg+xml;base64,' + D.plan;
  $('plan-of').hidden = !D.plan;
  rowOf.clear(); $('members').tBodies[0].replaceChildren(); table();
  const same = kept && sameMembers(old, D), train = kept ? Math.max(0, D.trains.findIndex(t => t.name === kept.train)) : 0;
  if (same) mechanism.q = kept.q;
  for (const p of kept ? parts : []) { const was = kept.seen.get(p.data.name); if (was) { p.group.visible = was.group.visible; see(p, was.through); } }
  state.train = D.trains[train];
  clip(); place();
  if (!kept) fit(); else if (kept.whole) fitAgain(look, fit); else remember();
  $('train').selectedIndex = train;
  pickTrain(train);
  if (same) mechanism.turn(input(), q(input()));  // what pushes is elsewhere now
  choose(kept && kept.chosen ? parts.findIndex(p => p.data.name === kept.chosen.data.name) : -1);
  taking = false;
}
const axisOf = ({ axes }) => [axes[2], axes[5], axes[8]];  // how far what turns is turned at the start does not make it another
/** Those parts of a state before that were others, as lines; none: no more. */
function showBefore(data) {
  for (const g of ghosts) dropped(g.group);
  ghosts = [];
  if (!data || data === D || !sameMembers(data, D)) return;
  const stood = [];  // of the same shape, elsewhere
  const around = (was, part) => {
    const group = ghostLines(shapeOf(data.shapes[was.shape]).edges);
    group.matrixAutoUpdate = false;
    scene.add(group);
    ghosts.push({ data: was, start: startOf(was), group, part });
  };
  data.parts.forEach((was, i) => {
    const part = parts[i] && parts[i].data.name === was.name ? parts[i] : parts.find(p => p.data.name === was.name);
    if (!part) return;
    const now = D.shapes[part.data.shape], then = data.shapes[was.shape];
    if (now.points !== then.points || now.step !== then.step) around(was, part);
    else if (coordinatesApart(was.at, part.data.at) > 1e-6 || coordinatesApart(axisOf(was), axisOf(part.data)) > 1e-9) stood.push([was, part]);
  });
  // Where all gives way to a wider part, the lines of all would hide what changed.
  if (stood.length < 6) for (const [was, part] of stood) around(was, part);
}
function shown() { return D; }
resize();
take(JSON.parse($('data').textContent)); draw();

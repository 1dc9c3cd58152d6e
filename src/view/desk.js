// The desk: what is typed goes to palio, what comes back is shown. Nothing is computed here but the turning.
const make = (tag, fields = {}, parent = null, attributes = {}) => {
  const node = Object.assign(document.createElement(tag), fields);
  for (const [name, value] of Object.entries(attributes)) node.setAttribute(name, value);
  return parent ? parent.appendChild(node) : node;
};
const now = { state: null, of: '', file: null, rows: new Map(), revision: 0 };
/** The state before a change is what the ghost and the marks at readings tell of: kept while one value is changed. */
const before = { path: null, at: 0, rows: new Map(), D: null, shown: 'on' };
const pins = new Set(JSON.parse(localStorage.getItem('palio-pins') || '[]'));
const opened = new Set();  // details that are open, by their name
let chosen = null;         // the value that was last worked on: the curve's
const turnsAtFirst = !(window.matchMedia && matchMedia('(prefers-reduced-motion: reduce)').matches);

// ---- asking ----------------------------------------------------------------------------------------------------
async function ask(path, body) {
  const answer = await fetch(path, body === undefined ? {} : { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) });
  const told = await answer.json();
  if (!answer.ok) throw Object.assign(new Error(told.error || 'it did not work'), { status: answer.status, path: told.path });
  return told;
}
function say(words) { $('bar-words').hidden = !words; $('words').textContent = words || ''; }
/** One change under way at a time; of those that wait only the last one of each value goes. */
const waiting = new Map();
let asking = false;
const timing = [];  // of each change, from asking to the picture [ms]
function change(path, said, again = false) {
  const held = waiting.get(path);
  waiting.set(path, { path, said, again: held ? held.again : again, since: held ? held.since : performance.now() });
  next();
}
async function next() {
  if (asking || !waiting.size) return;
  const [path, one] = waiting.entries().next().value;
  waiting.delete(path);
  asking = true;
  hold(true);
  remember(path);
  space.since = one.since;
  try {
    await apply(await ask('set', { path, said: one.said, again: one.again, of: now.of }));
    if (D) timing.push(performance.now() - one.since);
  } catch (e) {
    hold(false);
    if (e.status) mark(path, e.message); else gone();
  }
  asking = false;
  if (!space.ready) hold(false);
  next();
}
/** Turning takes a breath, so that the answer comes through at once. */
let breath = 0;
function hold(on) {
  clearTimeout(breath);
  waits = on;
  if (space.ready) inSpace().waits = on;
  if (on) breath = setTimeout(() => hold(false), 250);  // what takes longer is not worth standing still for
}
async function act(path, body = {}) {
  try { say(''); remember(path); await apply(await ask(path, { ...body, of: now.of })); return true; } catch (e) {
    if (e.status === 409 && path === 'save') {
      if (body.name) { $('name-words').textContent = e.message + ' – press Save again to write over it'; $('name-go').dataset.over = body.name; } else $('bar-other').hidden = false;
    }
    else if (e.status) say(e.message);
    else gone();
    return false;
  }
}
function remember(path) {
  if (before.shown === 'saved') return;
  const time = performance.now();
  if (path === before.path && time - before.at < 6000) { before.at = time; return; }
  Object.assign(before, { path, at: time, rows: new Map(now.rows), D });
  space.before = space.ready ? inSpace().shown() : null;
}

// ---- values ----------------------------------------------------------------------------------------------------
/** "hubs.0.diameter" as "hubs 1 · diameter". */
const words = key => key.replace(/\.(\d+)\b/g, (_, n) => ` ${Number(n) + 1}`).replaceAll('_', ' ').replaceAll('.', ' · ');
const errors = new Map();  // messages at fields whose last change was refused
function mark(path, message) {
  errors.set(path, message);
  for (const row of document.querySelectorAll('.row')) if (row.dataset.path === path) showWrong(row);
}
function messageAt(path) {
  const mistake = now.state && now.state.mistakes.find(m => m.path === path || path.endsWith('.' + m.path));
  return errors.get(path) || (mistake && mistake.message) || '';
}
function showWrong(row) {
  const message = messageAt(row.dataset.path);
  row.classList.toggle('wrong', !!message);
  let told = row.querySelector('.wrong-words');
  if (!message) { if (told) told.remove(); return; }
  if (!told) told = make('div', { className: 'wrong-words' }, row, { role: 'alert' });
  if (told.textContent !== message) told.textContent = message;
}
const isNumber = text => /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/.test(text.trim());
/** The text with its last digit moved by so many; whole numbers by whole ones. */
function nudged(text, steps, whole) {
  const plain = text.trim(), point = plain.indexOf('.'), places = whole || point < 0 ? 0 : plain.length - point - 1;
  return (Number(plain) + steps * Math.pow(10, -places)).toFixed(places);
}
function nudge(input, steps, again) {
  const text = input.value || input.placeholder;
  if (!isNumber(text)) return;
  // A whole number of a key that takes any is moved by tenths only when asked finely.
  input.value = nudged(Number.isInteger(steps) ? text : text.includes('.') ? text + '0' : text + '.0', Number.isInteger(steps) ? steps : Math.round(steps * 10), input.dataset.type === 'whole');
  change(input.dataset.path, input.value, again);
}
/** What holds where nothing is said. */
const shownOf = key => (key.inherited !== undefined ? key.inherited : key.absent) || '';
function field(row, key) {
  const said = key.said, shown = shownOf(key);
  const choices = key.choices || (key.type === 'flag' ? ['true', 'false'] : null);
  let input;
  if (choices) {
    input = make('select', {}, row);
    make('option', { value: '', textContent: said === null ? shown || '–' : 'leave out' }, input);
    for (const c of choices) make('option', { value: c, textContent: c }, input);
    input.value = said === null ? '' : said;
    input.onchange = () => { chosen = key.path; change(key.path, input.value === '' ? null : input.value); };
  } else {
    input = make('input', { value: said === null ? '' : said, placeholder: said === null ? shown : '', autocomplete: 'off', spellcheck: false }, row);
    if (key.type === 'text') input.className = 'words';
    let began = false;
    input.oninput = () => { chosen = key.path; change(key.path, input.value.trim() === '' ? null : input.value, began); began = true; };
    input.onblur = () => { began = false; };
    input.onkeydown = e => {
      const way = { ArrowUp: 1, ArrowDown: -1 }[e.key];
      if (!way || key.type === 'text') return;
      e.preventDefault();
      chosen = key.path;
      nudge(input, way * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1), began); began = true;
    };
    input.addEventListener('wheel', e => {
      if (document.activeElement !== input || key.type === 'text') return;
      e.preventDefault();
      chosen = key.path;
      nudge(input, (e.deltaY < 0 ? 1 : -1) * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1), began); began = true;
    }, { passive: false });
  }
  input.dataset.path = key.path; input.dataset.type = key.type; input.id = 'value-' + key.path;
  input.onfocus = () => { focused = key; hint(key); if (key.type !== 'text') chosen = key.path; };
  return input;
}
function valueRow(key, parent) {
  const row = make('div', { className: 'row ' + (key.said === null ? 'absent' : 'said') }, parent);
  row.dataset.path = key.path;
  const label = make('label', { textContent: words(key.key === 'teeth' && key.path.endsWith('leaves') ? 'leaves' : key.path.match(/\.\d+\./) ? key.path.split('.').slice(2).join('.') : key.key), htmlFor: 'value-' + key.path }, row);
  const input = field(row, key);
  make('span', { className: 'unit', textContent: key.unit }, row);
  const out = make('button', { className: 'out', textContent: '×', title: 'Leave it out' }, row, { 'aria-label': 'Leave out ' + key.path, tabindex: '-1' });
  out.onclick = () => change(key.path, null);
  if (key.type === 'text') row.classList.add('words');
  row.onmouseenter = () => hint(key);
  row.onmouseleave = () => { if (focused) hint(focused); };
  if (key.type === 'number' || key.type === 'whole') {
    label.className = 'number'; label.title = 'Drag sideways to change';
    let from = null, steps = 0, began = false;
    label.onpointerdown = e => { from = e.clientX; steps = 0; began = false; label.setPointerCapture(e.pointerId); };
    label.onpointermove = e => {
      if (from === null) return;
      const n = Math.trunc((e.clientX - from) / 6);
      if (n === steps) return;
      const live = document.getElementById('value-' + key.path) || input;
      chosen = key.path;
      nudge(live, n - steps, began); began = true; steps = n;
    };
    label.onpointerup = label.onpointercancel = () => { from = null; };
    label.onclick = e => { if (steps !== 0) e.preventDefault(); };
  }
  showWrong(row);
}
let focused = null;  // the key that is worked on
function hint(key) {
  const from = key.said !== null ? '' : key.inherited !== undefined ? ' Taken over from what it is like, or from what all share.' : key.absent ? ` Left out: ${key.absent}.` : '';
  $('hint').replaceChildren(make('b', { textContent: key.path }), make('br'), document.createTextNode(`${key.meaning}. Allowed: ${key.allowed}.${from}`));
}
function fold(parent, name, title, fill) {
  const details = make('details', { open: opened.has(name) }, parent), summary = make('summary', {}, details);
  summary.append(...title);
  let filled = false;
  const show = () => { if (details.open && !filled) { filled = true; fill(details); } };
  details.ontoggle = () => { if (details.open) opened.add(name); else opened.delete(name); show(); };
  show();
  return details;
}
/** What the values look like as a structure: rows are built anew only when it changes. */
const structure = values => JSON.stringify(values.map(t => [t.path, t.keys.map(k => [k.path, k.said === null])]));
let built = '', search = '';
function showValues() {
  const values = now.state.values, looks = structure(values) + search + now.of;
  if (looks === built) {
    const byPath = new Map(values.flatMap(t => t.keys.map(k => [k.path, k])));
    for (const input of document.querySelectorAll('#tables input, #tables select')) {
      const key = byPath.get(input.dataset.path);
      if (!key) continue;
      const text = key.said === null ? '' : key.said;
      if (document.activeElement !== input && input.value !== text) input.value = text;
      if (key.said === null && input.tagName === 'INPUT') input.placeholder = shownOf(key);
    }
    document.querySelectorAll('.row').forEach(showWrong);
    return;
  }
  built = looks;
  const focus = document.activeElement && document.activeElement.dataset ? document.activeElement.dataset.path : null;
  const place = focus && document.activeElement.tagName === 'INPUT' ? [document.activeElement.selectionStart, document.activeElement.selectionEnd, document.activeElement.value] : null;
  const scrolled = $('values').scrollTop, tables = $('tables');
  tables.replaceChildren();
  for (const table of values) {
    const matches = k => !search || words(k.path).includes(search) || k.path.includes(search) || k.meaning.toLowerCase().includes(search);
    const keys = table.keys.filter(matches), own = keys.filter(k => k.said !== null), over = keys.filter(k => k.said === null && k.inherited !== undefined), rest = keys.filter(k => k.said === null && k.inherited === undefined);
    if (!keys.length) continue;
    const [head, name] = table.path.split('.');
    const title = make('h2', { textContent: name || (head === '' ? 'the job' : head === 'shared' ? 'shared by all' : head === 'values' ? 'numbers with names' : head) }, tables);
    if (name) {
      title.append(' ', make('small', { textContent: table.kind || head }), ' ');
      make('button', { className: 'act', textContent: 'copy', title: head === 'gear' ? 'Another gear that is like this one' : 'Another one that says the same' }, title, { 'aria-label': `Copy ${table.path}` }).onclick = () => copyOf(table.path);
      make('button', { className: 'act', textContent: 'remove' }, title, { 'aria-label': `Remove ${table.path}` }).onclick = () => act('remove', { thing: table.path });
    }
    if (D && now.of.startsWith('pair.')) title.className = D.driver.name === name && head === 'gear' ? 'driver' : D.driven.name === name && head === 'gear' ? 'driven' : '';
    own.forEach(k => valueRow(k, tables));
    if (search) { over.concat(rest).forEach(k => valueRow(k, tables)); continue; }
    if (over.length) fold(tables, 'over ' + table.path, [`${over.length} taken over`], d => over.forEach(k => valueRow(k, d)));
    if (rest.length) fold(tables, 'rest ' + table.path, [`${rest.length} more that can be said`], d => rest.forEach(k => valueRow(k, d)));
  }
  $('values').scrollTop = scrolled;
  if (focus) {
    const again = document.getElementById('value-' + focus);
    if (again) { again.focus({ preventScroll: true }); if (place && again.tagName === 'INPUT') { if (again.value === '' && place[2]) again.value = place[2]; try { again.setSelectionRange(place[0], place[1]); } catch { /* not of this sort */ } } }
  }
}

// ---- readings --------------------------------------------------------------------------------------------------
const firstNumber = text => { const m = text.match(/-?\d+(\.\d+)?(e[-+]?\d+)?/); return m ? Number(m[0]) : null; };
function changeOf(path, value) {
  const was = before.shown === 'off' ? undefined : before.rows.get(path);
  if (was === undefined || was.value === value) return '';
  const a = firstNumber(was.value), b = firstNumber(value);
  const by = a !== null && b !== null && a !== b ? ` (${b > a ? '+' : '−'}${Number(Math.abs(b - a).toPrecision(3))})` : '';
  return `was ${was.value.replace(/\s*\(r .*/, '')}${by}`;
}
function readingRow(path, row, parent, label) {
  const change = changeOf(path, row.value);
  const line = make('div', { className: 'reading' + (change ? ' changed' : '') }, parent, { tabindex: '0', role: 'button' });
  line.dataset.path = path;
  const name = make('span', { textContent: (label || row.label) + ' ' }, line);
  if (row.symbol) make('span', { className: 'sign', textContent: row.symbol }, name);
  make('span', { className: 'value', textContent: row.value.replace(/\s+\(r .*/, '') }, line, { title: row.value });
  const pin = make('button', { className: 'pin', textContent: '◉', title: 'Keep at the top' }, line, { 'aria-pressed': String(pins.has(path)), 'aria-label': 'Keep ' + path + ' at the top' });
  pin.onclick = e => {
    e.stopPropagation();
    if (pins.has(path)) pins.delete(path); else pins.add(path);
    localStorage.setItem('palio-pins', JSON.stringify([...pins]));
    showReadings();
  };
  if (change) make('span', { className: 'change', textContent: change }, line);
  line.onclick = () => curveOf(path);
  line.onkeydown = e => { if (e.key === 'Enter' && e.target === line) curveOf(path); };
}
/** By their paths. */
const rowsOf = readings => new Map(readings.flatMap(table => table.rows.map(row => [`${table.path}.${row.key}`, row])));
function openReadings(state) { for (const table of state.readings) opened.add('read ' + table.path); }
function showReadings() {
  const rows = now.rows = rowsOf(now.state.readings);
  $('pinned').replaceChildren();
  for (const path of pins) if (rows.has(path)) readingRow(path, rows.get(path), $('pinned'), `${path.split('.')[1]}: ${rows.get(path).label}`);
  const marked = $('rows');
  const scrolled = $('readings').scrollTop;
  marked.replaceChildren();
  for (const table of now.state.readings) {
    const [head, name] = table.path.split('.'), changed = table.rows.filter(r => changeOf(`${table.path}.${r.key}`, r.value)).length;
    if (!table.rows.length) continue;
    const title = [make('b', { textContent: name }), ' ', make('small', { textContent: head + (changed ? `, ${changed} changed` : '') })];
    fold(marked, 'read ' + table.path, title, d => {
      let group = '';
      for (const row of table.rows) {
        if (row.group !== group) { group = row.group; if (group) make('h3', { textContent: group }, d); }
        readingRow(`${table.path}.${row.key}`, row, d);
      }
    });
  }
  $('readings').scrollTop = scrolled;
}
let asked = 0;
async function showVerdict() {
  const mine = ++asked;
  const box = $('verdict-words');
  if (!now.state.sound) {
    box.replaceChildren(make('b', { textContent: 'The job has a mistake; what is shown is the last that could be made.' }));
    for (const m of now.state.mistakes) {
      const doubt = make('div', { className: 'doubt error' }, box);
      if (m.path) make('b', { textContent: m.path + ' ' }, doubt);
      doubt.append(m.message + ' ');
      for (const { path, said } of m.mends) {
        const own = path === m.path, name = words(path.split('.').slice(own ? 2 : 1).join('.') || path);
        make('button', { className: 'strong', textContent: said !== null ? `${name} = ${said}` : own ? 'leave it out' : `leave out ${name}` }, doubt, { title: 'Tried: the mistake goes' }).onclick = () => change(path, said);
        doubt.append(' ');
      }
    }
    return;
  }
  let told;
  const slow = setTimeout(() => { if (mine === asked) box.replaceChildren(make('span', { className: 'quiet', textContent: 'looking for what stands against it …' })); }, 250);
  try { told = await ask('verdict'); } catch { return; } finally { clearTimeout(slow); }
  if (mine !== asked || told.overtaken || told.revision < now.revision) return;
  box.replaceChildren();
  make('b', { textContent: told.works ? (told.warnings ? `It works, with ${told.warnings} warning${told.warnings > 1 ? 's' : ''}` : 'Nothing stands against it') : `It does not work: ${told.errors} error${told.errors > 1 ? 's' : ''}` }, box);
  const offered = new Set();
  for (const d of told.doubts) {
    const doubt = make('div', { className: 'doubt ' + d.severity }, box);
    make('b', { textContent: `${d.severity}, ${d.subject}: ` }, doubt);
    doubt.append(d.message + ' ');
    const same = d.remedy && `${d.remedy.path} = ${d.remedy.value}`;
    if (offered.has(same)) doubt.append('The same number mends it.');
    else if (d.remedy) {
      offered.add(same);
      const take = make('button', { className: 'strong', textContent: `${d.remedy.path.split('.').slice(1).join(' ').replaceAll('_', ' ')} = ${d.remedy.value}` }, doubt, { title: d.remedy.clean ? 'Tried: the doubt goes' : 'Tried: the doubt goes, another warning comes' });
      take.onclick = () => change(d.remedy.path, String(d.remedy.value));
    }
  }
}

// ---- the curve of a reading over a value -----------------------------------------------------------------------
let curve = null, curving = 0;
async function curveOf(reading) {
  const number = now.state.values.flatMap(t => t.keys).find(k => k.path === chosen);
  if (!number || number.type === 'text' || number.type === 'choice') { say('Choose a value on the left first: the curve shows what it does to this reading.'); return; }
  say('');
  await drawCurve(reading, chosen);
}
async function drawCurve(reading, value) {
  const mine = ++curving;
  $('curve').hidden = false; $('stage').classList.add('curving');
  const deep = { span: '.length', over_pins: '.length', over_balls: '.length', between_pins: '.length', between_balls: '.length' };
  const key = reading.split('.')[2], listed = /^\S+ \S+\s{2,}/.test((now.rows.get(reading) || { value: '' }).value);
  const path = reading + (deep[key] || (listed ? '.0' : ''));
  try {
    const told = await ask(`curve?value=${encodeURIComponent(value)}&reading=${encodeURIComponent(path)}`);
    if (mine !== curving || told.overtaken) return;  // what changed asks for it anew
    curve = told; curve.asked = reading;
    paintCurve();
  } catch (e) { if (mine === curving) { closeCurve(); if (e.status) say(e.message); } }
}
function paintCurve() {
  if (!curve || $('curve').hidden) return;
  const canvas = $('curve-canvas'), r = window.devicePixelRatio || 1, w = canvas.clientWidth, h = canvas.clientHeight;
  canvas.width = w * r; canvas.height = h * r;
  const c = canvas.getContext('2d');
  c.setTransform(r, 0, 0, r, 0, 0); c.clearRect(0, 0, w, h);
  const known = curve.is.filter(v => v !== null);
  if (!known.length) { paintWords(c, 'no number there', w / 2, h / 2, INK, 'center'); return; }
  let low = Math.min(...known), high = Math.max(...known);
  if (high - low < 1e-9 * Math.max(1, Math.abs(high))) { low -= 0.5; high += 0.5; }
  const first = curve.at[0], last = curve.at[curve.at.length - 1], left = 12, right = w - 12, top = 46, bottom = h - 34;
  const X = v => left + (right - left) * (v - first) / (last - first || 1), Y = v => bottom - (bottom - top) * (v - low) / (high - low), short = v => Number(v.toPrecision(5)).toString();
  const name = path => path.split('.').slice(1).join(' ').replaceAll('_', ' ');
  paintWords(c, `${name(curve.reading)}`, left, 12, INK, 'left');
  paintWords(c, `over ${name(curve.value)}`, left, 28, '#5d5b54', 'left', 11);
  c.strokeStyle = FAINT; c.beginPath(); c.moveTo(left, bottom); c.lineTo(right, bottom); c.stroke();
  c.setLineDash([4, 3]);
  for (const l of curve.limits) { c.beginPath(); c.moveTo(X(l.at), top); c.lineTo(X(l.at), bottom); c.stroke(); }
  c.setLineDash([]);
  c.strokeStyle = COLOR[1]; c.lineWidth = 2; c.beginPath();
  let pen = false;
  curve.is.forEach((v, i) => { if (v === null) { pen = false; return; } if (pen) c.lineTo(X(curve.at[i]), Y(v)); else c.moveTo(X(curve.at[i]), Y(v)); pen = true; });
  c.stroke(); c.lineWidth = 1;
  const nearest = curve.at.reduce((best, v, i) => Math.abs(v - curve.here) < Math.abs(curve.at[best] - curve.here) ? i : best, 0);
  if (curve.is[nearest] !== null) { c.fillStyle = '#1d1d22'; c.beginPath(); c.arc(X(curve.here), Y(curve.is[nearest]), 4, 0, 2 * Math.PI); c.fill(); }
  paintWords(c, `${short(high)} ${curve.unit}`, right, top - 8, '#5d5b54', 'right', 11); paintWords(c, short(low), right, bottom - 7, '#5d5b54', 'right', 11);
  paintWords(c, short(first), left, bottom + 9, '#5d5b54', 'left', 11); paintWords(c, short(last), right, bottom + 9, '#5d5b54', 'right', 11);
  const beside = curve.limits.slice().sort((a, b) => Math.abs(a.at - curve.here) - Math.abs(b.at - curve.here)).slice(0, 1);
  for (const l of beside) paintWords(c, `${l.above ? 'from' : 'up to'} ${short(l.at)}: ${l.what === 'impossible' ? 'cannot be made' : l.what.split(' ')[1].replaceAll('-', ' ')}`, w / 2, bottom + 24, INK, 'center', 11);
}

/** The value with which the reading is as wanted: found by palio, said like any other. */
async function findIt() {
  const wanted = $('wanted').value.trim();
  if (!curve || !wanted) return;
  $('found').textContent = 'looking …';
  try {
    const told = await ask(`find?value=${encodeURIComponent(curve.value)}&reading=${encodeURIComponent(curve.reading)}&wanted=${encodeURIComponent(wanted)}`);
    if (told.overtaken) { $('found').textContent = 'the job was changed meanwhile: ask again'; return; }
    if (told.number === null) {
      $('found').textContent = told.nearest ? `no value does; ${Number(told.nearest.number.toPrecision(6))} comes nearest, with ${Number(told.nearest.is.toPrecision(6))}` : `no value does${told.why ? ': ' + told.why : ''}`;
      return;
    }
    $('found').textContent = `found ${Number(told.number.toPrecision(8))}` + (told.errors ? `, with ${told.errors} error${told.errors > 1 ? 's' : ''}` : '');
    change(told.value, told.said);
  } catch (e) { $('found').textContent = ''; if (e.status) say(e.message); else gone(); }
}
$('find').onclick = findIt;
$('wanted').onkeydown = e => { if (e.key === 'Enter') findIt(); };

// ---- files, copies -----------------------------------------------------------------------------------------------
const KINDS = ['step', 'stl', '3mf', 'glb', 'dxf', 'svg', 'csv', 'pdf', 'sheets', 'pictures', 'mp4', 'webm', 'gif'];
for (const kind of KINDS) {
  const film = ['mp4', 'webm', 'gif'].includes(kind), label = make('label', { textContent: film ? ` film .${kind}` : ` ${kind}`, title: film ? 'What turns in the middle, one loop' : '' }, $('formats'));
  label.prepend(make('input', { type: 'checkbox', value: kind, checked: kind === 'stl' }));
}
$('out').onclick = () => { const on = $('bar-out').hidden; $('bar-out').hidden = !on; $('out').setAttribute('aria-expanded', String(on)); $('out-words').textContent = ''; if (on) ask('work').then(w => { if (w.state === 'busy') showWork(w); }, gone); $('out-page').href = `page?of=${encodeURIComponent(now.of)}`; $('out-page').download = `${now.of.split('.')[1] || 'pair'}.html`; $('out-page').hidden = !now.of; };
$('out-no').onclick = () => { $('bar-out').hidden = true; $('out').setAttribute('aria-expanded', 'false'); };
$('out-go').onclick = async () => {
  const formats = [...document.querySelectorAll('#formats input:checked')].map(i => i.value);
  if (!formats.length) { $('out-words').textContent = 'choose one'; return; }
  try { showWork(await ask('make', { formats, of: now.of })); } catch (e) { if (e.status) $('out-words').textContent = e.message; else gone(); }
};
$('out-stop').onclick = () => { $('out-words').textContent = 'stopping …'; ask('stop', {}).catch(gone); };
/** How far the files are that are being made; what became of them. */
let workStep = 0;
function showWork(work) {
  // An answer may come after the news of what happened since.
  if (!work || work.state === 'none' || work.step < workStep) return;
  workStep = work.step;
  const busy = work.state === 'busy';
  $('out-go').disabled = busy; $('out-stop').hidden = !busy;
  const brief = words => words.replace(/^(writing|drawing) .*\//, '$1 ').replace(/^\S*\/(\S+: )/, '$1');
  if (work.state === 'done') { const { files, folder } = work.made; $('out-words').textContent = `${files.length} file${files.length === 1 ? '' : 's'} in ${folder}: ${files.slice(0, 4).join(', ')}${files.length > 4 ? ' …' : ''}`; }
  else $('out-words').textContent = busy ? brief(work.words) : work.state === 'stopped' ? 'stopped; what was finished stays' : work.words;
}
let naming = null;  // what a name is asked for: the thing to copy, or the sort to add
function askName(what, words, name) { naming = what; $('copy-of').textContent = words; $('copy-name').value = name; $('bar-copy').hidden = false; $('copy-name').focus(); $('copy-name').select(); }
function copyOf(thing) { const name = thing.split('.')[1]; askName({ thing }, thing.startsWith('gear.') ? `the gear like ${name}` : `the copy of ${name}`, name + '_2'); }
$('copy-go').onclick = async () => {
  const name = $('copy-name').value.trim();
  if (!await (naming.sort ? addIt(naming.sort, name) : act('copy', { thing: naming.thing, name }))) return;
  $('bar-copy').hidden = true;
};
$('copy-name').onkeydown = e => { if (e.key === 'Enter') $('copy-go').click(); if (e.key === 'Escape') $('bar-copy').hidden = true; };
/** A thing of a sort, made of what the job has; its first value is where one goes on. */
async function addIt(sort, name) {
  if (!await act('add', { sort, name })) return false;
  const first = [...document.querySelectorAll('#tables .row')].find(row => row.dataset.path.startsWith(name ? `${sort}.${name}.` : `${sort}.`));
  if (first) { first.scrollIntoView({ block: 'center' }); first.querySelector('input, select').focus({ preventScroll: true }); }
  return true;
}
function showAddable(addable) {
  const looks = addable.map(a => a.sort).join();
  if ($('add').dataset.looks === looks) return;
  $('add').dataset.looks = looks;
  $('add').replaceChildren(make('option', { value: '', textContent: 'add …' }), ...addable.map(a => make('option', { value: a.sort, textContent: ADDED[a.sort] || a.sort })));
}
const ADDED = { planetary: 'planetary set', frame: 'plate', process: 'how it is made' };
$('add').onchange = () => {
  const wanted = now.state.addable.find(a => a.sort === $('add').value);
  $('add').value = '';
  if (wanted && wanted.name) askName({ sort: wanted.sort }, `the new ${ADDED[wanted.sort] || wanted.sort}`, wanted.name);
  else if (wanted) addIt(wanted.sort, '');
};
$('copy-no').onclick = () => { $('bar-copy').hidden = true; };

// ---- all together ----------------------------------------------------------------------------------------------
/** What turns in space has a page of its own below: loaded once for each thing, then given what is new. */
const space = { of: null, ready: false, revision: 0, asked: 0, before: null };
const inSpace = () => $('space').contentWindow;
function loadSpace() {
  Object.assign(space, { of: now.of, ready: false, revision: now.revision, before: null });
  $('space').src = `page?of=${encodeURIComponent(now.of)}&drawn=quick`;
}
/** What is not seen is not turned. */
function leaveSpace() {
  hold(false);
  if (!space.of) return;
  Object.assign(space, { of: null, ready: false, before: null });
  $('space').src = 'about:blank';
}
$('space').onload = () => {
  if (!space.of || !inSpace().take) return;
  space.ready = true;
  inSpace().document.body.classList.add('within'); inSpace().dispatchEvent(new Event('resize'));
  if (turnsAtFirst) inSpace().run(true);
  refreshSpace();
};
/** First the teeth alone, where they came along; then what was rolled. */
async function refreshSpace(teeth = null) {
  const mine = ++space.asked;
  if (!space.ready || !now.state.sound || space.revision === now.revision) { hold(false); showSpaceGhost(); return; }
  if (teeth) takeInSpace(teeth);
  let told;
  const slow = setTimeout(() => { if (mine === space.asked && space.ready) inSpace().document.getElementById('verdict').textContent = 'rolling …'; }, 300);
  try { told = await ask(`picture?of=${encodeURIComponent(space.of)}`); } catch (e) { hold(false); if (e.status) say(e.message); else gone(); return; } finally { clearTimeout(slow); }
  if (mine !== space.asked || !space.ready || told.revision < now.revision) return;
  takeInSpace(told.data);
  space.revision = told.revision;
}
function takeInSpace(data) {
  inSpace().take(data);
  hold(false);
  showSpaceGhost();
  if (space.since) { timing.push(performance.now() - space.since); space.since = 0; }
}
function showSpaceGhost() {
  if (!space.ready) return;
  const data = before.shown === 'off' ? null : before.shown === 'saved' ? before.D : space.before;
  inSpace().showBefore(data); inSpace().draw();
}
function showPicture(told) {
  const turning = now.state.turning.find(t => t.path === now.of), plane = turning && turning.plane;
  $('middle').classList.toggle('space', !!turning && !plane);
  if (told.data && plane) {
    leaveSpace();
    const same = D && D.pair === told.data.pair;
    if (same) {
      const turned = (state.phi - D.driver.start) / pitch, zoom = { ...view }, oldFit = JSON.stringify(extent(gears));
      take(told.data);
      state.phi = D.driver.start + turned * pitch; state.psi = nominal(state.phi);
      const touch = limit(state.lastPush > 0 ? 'u' : 'l', state.phi);
      if (touch !== null) state.psi = touch;
      settle(false);
      $('verdict').textContent = D.verdict.replace('_', ' '); $('law').textContent = D.summary;
      if (JSON.stringify(extent(gears)) === oldFit) Object.assign(view, zoom); else fit();
    } else begin(told.data);
    showGhost();
    draw();
  } else if (turning && !plane) {
    D = null; ghost = null; $('verdict').textContent = ''; $('law').textContent = '';
    if (space.of !== now.of) loadSpace(); else refreshSpace(told.data);
  } else leaveSpace();
}
function showGhost() { ghost = before.shown !== 'off' && D && before.D && before.D !== D && before.D.pair === D.pair ? ghostOf(before.D) : null; }
const ghosts = new WeakMap();
function ghostOf(data) {
  if (!ghosts.has(data)) { const both = [data.driver, data.driven]; ghosts.set(data, { gears: both, shapes: both.map(outline) }); }
  return ghosts.get(data);
}
/** The picture at once, what is read beside it right after. */
async function apply(told) {
  if (told.state.revision < now.revision) return;
  now.revision = told.state.revision;
  await learnKeys(told.state.units);
  if (told.state.revision < now.revision) return;
  withWords(told.state);
  errors.clear();
  Object.assign(now, { state: told.state, of: told.of, file: told.file, revision: told.state.revision });
  $('title').textContent = told.state.title || 'a job without title';
  document.title = (told.state.title || 'a job') + ' · palio desk';
  $('file').textContent = told.file ? told.file.split('/').pop() : 'not in a file yet';
  $('kept').textContent = told.state.kept && told.file ? '· saved' : '· not saved';
  $('undo').disabled = !told.state.can_undo; $('redo').disabled = !told.state.can_redo; $('save').disabled = told.state.kept && !!told.file;
  $('bar-other').hidden = !told.other;
  const of = $('of'), options = told.state.turning.map(t => t.path);
  if (options.join() !== [...of.options].map(o => o.value).join()) of.replaceChildren(...options.map(p => make('option', { value: p, textContent: p.split('.')[1] || 'all of it, in space' })));
  of.value = now.of; of.hidden = options.length < 2;
  showPicture(told.picture);
  showValues();
  showAddable(told.state.addable);
  clearTimeout(later);
  later = setTimeout(() => {
    showReadings();
    showVerdict();
    if (curve && !$('curve').hidden) drawCurve(curve.asked, curve.value);
  }, 0);
}
let later = 0;
/** What is said of each key; in the units that the job has. */
let keys = null, keysIn = null;
async function learnKeys(units) {
  if (keysIn === units) return;
  keys = await ask('keys'); keysIn = units;
}
const withWords = state => { for (const t of state.values) for (const k of t.keys) Object.assign(k, { ...keys[k.key], path: k.path, key: keys[k.key].word || k.path.split('.').pop() }); return state; };
async function refresh() { try { await apply(await ask(`now?of=${encodeURIComponent(now.of)}`)); } catch (e) { if (!e.status) gone(); else say(e.message); } }
function gone() { $('bar-gone').hidden = false; for (const node of document.querySelectorAll('#values input, #values select, header button')) node.disabled = true; }
function nameIt() { $('bar-name').hidden = false; $('name').value = now.file ? now.file.split('/').pop().replace(/(\.\w+)?$/, '-2$1') : 'gears.toml'; $('name-words').textContent = ''; delete $('name-go').dataset.over; $('name').focus(); $('name').select(); }
$('undo').onclick = () => act('undo');
$('redo').onclick = () => act('redo');
const save = () => { if (now.file) act('save'); else nameIt(); };
$('save').onclick = save;
$('save-as').onclick = nameIt;
$('name-go').onclick = async () => { const name = $('name').value.trim(); if (await act('save', { name, over: $('name-go').dataset.over === name })) $('bar-name').hidden = true; };
$('name').onkeydown = e => { if (e.key === 'Enter') $('name-go').click(); if (e.key === 'Escape') $('bar-name').hidden = true; };
$('name-no').onclick = () => { $('bar-name').hidden = true; };
$('words-no').onclick = () => say('');
$('take-other').onclick = () => act('take');
$('keep-mine').onclick = () => act('save', { over: true });
function closeCurve() { $('curve').hidden = true; $('stage').classList.remove('curving'); curve = null; }
$('curve-no').onclick = closeCurve;
$('search').oninput = () => { search = $('search').value.trim().toLowerCase(); showValues(); };
$('of').onchange = async () => {
  now.of = $('of').value; before.D = null;
  if (before.shown === 'saved') await askSaved();
  refresh();
};
async function askSaved() {
  try {
    const told = await ask(`kept?of=${encodeURIComponent(now.of)}`);
    Object.assign(before, { path: '(saved)', rows: rowsOf(told.readings), D: told.data });
  } catch (e) { if (e.status) say(e.message); else gone(); }
}
/** What the ghost and the marks tell of: the state before the last change, the saved one, or nothing. */
$('before').onclick = async () => {
  before.shown = { on: 'saved', saved: 'off', off: 'on' }[before.shown];
  if (before.shown === 'saved') await askSaved();
  $('before').textContent = 'Before: ' + before.shown; $('before').setAttribute('aria-pressed', String(before.shown !== 'off'));
  showGhost();
  if (D) draw();
  showSpaceGhost();
  showReadings();
};
document.addEventListener('keydown', e => {
  if (!(e.ctrlKey || e.metaKey)) return;
  const keys = { z: () => act(e.shiftKey ? 'redo' : 'undo'), y: () => act('redo'), s: save }, own = keys[e.key.toLowerCase()];
  if (own) { e.preventDefault(); own(); }
});
window.addEventListener('resize', paintCurve);
new ResizeObserver(() => { if (canvas.clientWidth !== W || canvas.clientHeight !== H) resize(); }).observe($('stage'));  // lines above it come and go
const news = new EventSource('news');
news.onmessage = e => { const told = JSON.parse(e.data); $('bar-other').hidden = !told.other; if (!$('bar-out').hidden) showWork(told.work); if (told.revision > now.revision && !asking) refresh(); };
news.addEventListener('stopped', () => { news.close(); gone(); });
news.onerror = () => { if (news.readyState === EventSource.CLOSED) gone(); else fetch('now').catch(gone); };
(async () => {
  const told = await ask('now');
  openReadings(told.state);
  await apply(told);
  if (!told.file && told.starters) {
    $('starters').hidden = false;
    for (const kind of told.starters.filter(k => k !== 'measurements')) {
      make('button', { textContent: kind.replaceAll('_', ' ') }, $('starter-list')).onclick = async () => { D = null; if (await act('start', { kind })) { $('starters').hidden = true; openReadings(now.state); showReadings(); } };
    }
  }
  if (turnsAtFirst) run(true);
})();

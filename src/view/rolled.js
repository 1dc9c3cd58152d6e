// What every page of a rolled pair does with the roll's table (D.positions) and the state of the two members.
// ---- the roll's table ------------------------------------------------------------------------------------------
function place(phi) {
  if (!N) return { k: 0, i: 0, f: 0 };  // not rolled yet
  const turns = (phi - D.driver.start) / pitch, k = Math.floor(turns + 1e-12);
  let at = (turns - k) * N;
  if (at < 0) at = 0;
  const i = Math.floor(at + 1e-9) % N;
  return { k, i, f: Math.max(0, at - Math.floor(at + 1e-9)) };
}
const nominal = phi => D.driven.start + D.ratio * (phi - D.driver.start);
function limit(side, phi) {  // coordinate of the driven at its upper or lower limit; null when nothing is in its way
  if (!N) return null;
  const p = place(phi), a = D.positions[p.i][side], b = D.positions[(p.i + 1) % N][side];
  if (a === null || b === null) return null;
  return nominal(phi) + a + (b - a) * p.f;  // the table holds the distance from the nominal coordinate
}
function settle(push) {  // the driven gives way to the driver
  if (!N) { state.psi = nominal(state.phi); return; }
  const u = limit('u', state.phi), l = limit('l', state.phi);
  if (u !== null && l !== null && u < l) { state.psi = (u + l) / 2; return; }
  if (u !== null && state.psi > u) { state.psi = u; if (push) state.lastPush = 1; }
  if (l !== null && state.psi < l) { state.psi = l; if (push) state.lastPush = -1; }
}
function turnDriver(to) { state.phi = to; settle(true); }
function turnDriven(to) {  // by hand: the driver gives way
  state.psi = to;
  if (!N) { state.phi = D.driver.start + (to - D.driven.start) / D.ratio; return; }
  for (let n = 0; n < 4; n++) {
    const u = limit('u', state.phi), l = limit('l', state.phi);
    if (u !== null && l !== null && u < l) { state.phi += (state.psi - (u + l) / 2) / D.ratio; continue; }
    if (u !== null && state.psi > u) { state.phi += (state.psi - u) / D.ratio; state.lastPush = 1; }
    else if (l !== null && state.psi < l) { state.phi += (state.psi - l) / D.ratio; state.lastPush = -1; }
    else break;
  }
  const u = limit('u', state.phi), l = limit('l', state.phi);
  if (u !== null && l !== null && u >= l) state.psi = Math.min(u, Math.max(l, state.psi));
}

// ---- the strip chart -------------------------------------------------------------------------------------------
function strip() {
  const c = $('strip').getContext('2d'), w = $('strip').clientWidth, h = $('strip').clientHeight;
  c.clearRect(0, 0, w, h);
  if (!N) { c.font = '12px "DejaVu Sans", system-ui, sans-serif'; c.fillStyle = INK; c.textAlign = 'left'; c.textBaseline = 'alphabetic'; c.fillText('rolling: backlash, contacts and error follow', 18, 16); return; }
  const arcsec = row => row[state.lastPush > 0 ? 'eu' : 'el'];
  const charts = [
    { name: 'backlash', short: 'backlash', unit: D.units, values: D.positions.map(r => r.u === null || r.l === null ? null : (r.u - r.l) * D.working_radius / D.mm_per_unit), digits: 6 },
    { name: 'tooth pairs in contact', short: 'tooth pairs', unit: '', values: D.positions.map(r => r.n), digits: 0, steps: true },
    { name: 'transmission error', short: 'error', unit: D.error_unit, values: D.positions.map(arcsec), digits: 9 } ];
  const left = 18, gap = 26, each = (w - 2 * left - 2 * gap) / 3, narrow = each < 230, top = narrow ? 44 : 26, bottom = h - 20, now = place(state.phi);
  charts.forEach((chart, n) => {
    const x0 = left + n * (each + gap), known = chart.values.filter(v => v !== null);
    // The least height shown: rounding noise must look flat, not like a mountain.
    const floor = chart.steps ? 3 : chart.unit === D.error_unit ? 2e-4 : 2e-6;
    let low = Math.min(...known, chart.steps ? 0 : Infinity), high = Math.max(...known);
    if (!known.length) { low = 0; high = 1; }
    if (high - low < floor) { const m = chart.steps ? floor / 2 : (low + high) / 2; low = m - floor / 2; high = m + floor / 2; }
    const scale = v => chart.steps ? String(Math.round(v)) : chart.unit === D.error_unit ? smallError(v, 1) : plain(v, chart.digits);
    const X = i => x0 + each * i / N, Y = v => bottom - (bottom - top) * (v - low) / (high - low || 1);
    c.font = '12px "DejaVu Sans", system-ui, sans-serif'; c.fillStyle = INK; c.textAlign = 'left'; c.textBaseline = 'alphabetic';
    const here = chart.values[now.i];
    const text = here === null ? 'none' : chart.steps ? String(here) : chart.unit === D.error_unit ? smallError(here, 2) : plain(here, chart.digits) + ' ' + chart.unit;
    if (narrow) { c.font = '11px "DejaVu Sans", system-ui, sans-serif'; c.fillText(chart.short, x0, 13); c.fillText(text, x0, 28); }
    else c.fillText(`${chart.name}: ${text}`, x0, 16);
    c.strokeStyle = FAINT; c.lineWidth = 1; c.beginPath(); c.moveTo(x0, bottom); c.lineTo(x0 + each, bottom); c.stroke();
    c.strokeStyle = INK; c.lineWidth = 1.6; c.beginPath();
    let pen = false;
    chart.values.concat([chart.values[0]]).forEach((v, i) => {
      if (v === null) { pen = false; return; }
      const y = Y(v);
      if (!pen) c.moveTo(X(i), y); else { if (chart.steps) c.lineTo(X(i), Y(chart.values[i - 1])); c.lineTo(X(i), y); }
      pen = true;
    });
    c.stroke();
    c.font = '11px "DejaVu Sans", system-ui, sans-serif'; c.textAlign = 'right';
    for (const [v, y] of [[high, top + 4], [low, bottom - 4]]) {  // read over the curve
      c.strokeStyle = '#fbfaf6'; c.lineWidth = 4; c.lineJoin = 'round'; c.strokeText(scale(v), x0 + each, y);
      c.fillStyle = '#77756d'; c.fillText(scale(v), x0 + each, y);
    }
    c.textAlign = 'left'; c.lineWidth = 1;
    const cx = X(now.i + now.f);
    c.strokeStyle = '#1d1d22'; c.setLineDash([4, 3]); c.beginPath(); c.moveTo(cx, top - 4); c.lineTo(cx, bottom + 4); c.stroke(); c.setLineDash([]);
    if (here !== null) { c.fillStyle = '#1d1d22'; c.beginPath(); c.arc(cx, Y(here), 4, 0, 2 * Math.PI); c.fill(); }
    c.fillStyle = '#77756d'; c.font = '11px "DejaVu Sans", system-ui, sans-serif';
    c.fillText('0', x0, h - 5); c.textAlign = 'right'; c.fillText(narrow ? 'one pitch' : 'one tooth pitch of the driver', x0 + each, h - 5);
  });
}

// Leaves to flip through: one large, all as thumbnails.
const leaves = JSON.parse(document.getElementById('data').textContent);
const at = id => document.getElementById(id);
const element = (tag, text, name) => {
  const e = document.createElement(tag);
  if (text !== undefined) e.textContent = text;
  if (name) e.className = name;
  return e;
};
const picture = leaf => {
  const img = element('img');
  img.src = 'data:image/png;base64,' + leaf.picture;
  img.alt = leaf.name;
  return img;
};
// Long paths may break after a point or underline; long numbers are told with eight digits.
const broken = path => path.replace(/([._])/g, '$1\u200b');
const told = cell => cell === '' ? '–' : /^-?\d+[.,]\d{8,}(e-?\d+)?$/.test(cell)
  ? String(Number(Number(cell.replace(',', '.')).toPrecision(8))) : cell;
let shown = [], current = 0;

function show(place) {
  if (shown.length === 0) {
    at('large').replaceChildren();
    at('said').replaceChildren(element('p', 'no row is doubtful'));
    at('count').textContent = '0 rows';
    return;
  }
  current = Math.min(Math.max(place, 0), shown.length - 1);
  const leaf = leaves[shown[current]];
  at('large').replaceChildren(leaf.picture ? picture(leaf) : element('p', leaf.problem ? 'no such job' : 'no picture of this kind'));
  const table = element('table');
  for (const [head, cell] of leaf.cells) {
    const row = element('tr');
    row.append(element('td', broken(head.replace(/^report:/, ''))), element('td', told(cell)));
    table.append(row);
  }
  const list = element('ul');
  for (const doubt of leaf.doubts) list.append(element('li', doubt, doubt.split(' ')[0]));
  at('said').replaceChildren(element('h2', leaf.name), table);
  if (leaf.problem) at('said').append(element('p', leaf.problem, 'error'));
  if (leaf.doubts.length > 0) at('said').append(list);
  else if (!leaf.problem) at('said').append(element('p', 'nothing is doubtful'));
  at('count').textContent = (current + 1) + ' of ' + shown.length;
  [...at('strip').children].forEach((b, i) => b.setAttribute('aria-current', i === current));
  const chosen = at('strip').children[current];
  if (chosen) at('strip').scrollLeft = chosen.offsetLeft - at('strip').clientWidth / 2 + 66;
}

function fill() {
  const only = at('doubtful').checked;
  shown = leaves.map((_, i) => i).filter(i => !only || leaves[i].problem || leaves[i].doubts.length > 0);
  at('strip').replaceChildren(...shown.map((i, place) => {
    const b = element('button');
    b.append(leaves[i].picture ? picture(leaves[i]) : element('div', leaves[i].problem ? 'no such job' : '', 'none'));
    b.append(element('span', leaves[i].name));
    b.title = leaves[i].problem || leaves[i].doubts.join('\n');
    b.onclick = () => show(place);
    return b;
  }));
  show(0);
}

at('back').onclick = () => show(current - 1);
at('forth').onclick = () => show(current + 1);
at('doubtful').onchange = fill;
addEventListener('keydown', e => {
  if (e.key === 'ArrowLeft') show(current - 1);
  if (e.key === 'ArrowRight') show(current + 1);
});
fill();

// What the job makes, loaded anew when it is made anew. A mistake in the job leaves the last good one standing.
const $ = id => document.getElementById(id);
let views = [], chosen = '';
function load() {
  $('views').replaceChildren(...(views.length > 1 ? views : []).map(name => {
    const button = document.createElement('button');
    button.textContent = name;
    button.setAttribute('aria-current', name === chosen);
    button.onclick = () => { chosen = name; load(); };
    return button;
  }));
  if (chosen) $('shown').src = 'view?of=' + encodeURIComponent(chosen) + '&at=' + Date.now();
}
const news = new EventSource('news');
news.onmessage = event => {
  const told = JSON.parse(event.data);
  $('told').textContent = told.error || 'as of ' + told.at;
  $('told').className = told.error ? 'bad' : '';
  if (told.error) return;
  views = told.views;
  if (!views.includes(chosen)) chosen = views[0] || '';
  load();
};
const ended = () => { news.close(); $('told').textContent = 'palio has ended; this page stays as it is'; };
news.addEventListener('stopped', ended);
news.onerror = () => { if (news.readyState === EventSource.CLOSED) ended(); };

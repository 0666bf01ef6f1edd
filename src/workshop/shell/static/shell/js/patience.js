// What takes longer than a blink says so, with its seconds, and nobody has to wait for it.
//
// data-made="the proof sheet": a link or a form's button that gives a file which is made first.
// data-takes="Taking the photograph": whatever else is known to take its time.

import { say } from './page.js';

const AFTER_MS = 500;
const place = document.querySelector('#patience');
const waits = new Set(); // { words, since }

function draw() {
  const [one] = [...waits].filter(({ since }) => performance.now() - since >= AFTER_MS);
  place.hidden = !one;
  if (!one) return;
  const [words, seconds] = place.children;
  if (words.textContent !== one.words) words.textContent = one.words; // told once, not each second
  seconds.textContent = `${Math.round((performance.now() - one.since) / 1000)} s`;
}
let ticking = 0;
function begin(words, { leaves = false } = {}) {
  const one = { words: leaves ? words : `${words}; you can go on meanwhile.`, since: performance.now() };
  waits.add(one);
  ticking ||= setInterval(draw, AFTER_MS);
  return () => {
    waits.delete(one);
    if (!waits.size) {
      clearInterval(ticking);
      ticking = 0;
    }
    draw();
  };
}

// Files that are made when they are asked for

function named(answer) {
  const told = answer.headers.get('Content-Disposition') ?? '';
  const [, coded] = /filename\*=utf-8''([^;]+)/i.exec(told) ?? [];
  return coded ? decodeURIComponent(coded) : (/filename="([^"]+)"/.exec(told) ?? [])[1] ?? 'file';
}
function give(blob, name) {
  const link = Object.assign(document.createElement('a'), { href: URL.createObjectURL(blob), download: name });
  document.body.append(link);
  link.click();
  link.remove();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
async function make(what, address, options) {
  const done = begin(`Making ${what}`);
  try {
    const answer = await fetch(address, options);
    const file = answer.headers.has('Content-Disposition');
    if (answer.ok && file) give(await answer.blob(), named(answer));
    else if (answer.redirected) location.assign(answer.url); // there it says why
    else if (answer.headers.get('Content-Type')?.startsWith('text/plain')) say(await answer.text(), { stays: true });
    else say('That did not work; nothing was changed. Try again.', { stays: true });
  } catch {
    say('The program cannot be reached. Is it still running?', { stays: true });
  }
  done();
}

document.addEventListener('click', (event) => {
  const link = event.target.closest('a[data-made]');
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
  event.preventDefault();
  make(link.dataset.made, link.href);
});
document.addEventListener('submit', (event) => {
  const { target: form, submitter } = event;
  if (event.defaultPrevented) return;
  const what = submitter?.dataset.made ?? form.dataset.made;
  if (what) {
    event.preventDefault();
    const told = new FormData(form, submitter);
    const query = new URLSearchParams([...told].filter(([, value]) => typeof value === 'string'));
    if (form.method === 'get') make(what, `${form.action}?${query}`);
    else make(what, form.action, { method: 'POST', body: told });
  } else if (form.dataset.takes) begin(form.dataset.takes, { leaves: true });
});

const requests = new WeakMap();
document.addEventListener('htmx:beforeRequest', ({ detail }) => {
  const words = detail.elt.closest?.('[data-takes]')?.dataset.takes;
  if (words) requests.set(detail.xhr, begin(words));
});
document.addEventListener('htmx:afterRequest', ({ detail }) => requests.get(detail.xhr)?.());
// A page that is kept for the way back is not waiting any more.
addEventListener('pagehide', () => {
  waits.clear();
  draw();
});

// The contact sheet: opened where the loupe lies, chosen from by click or key.

import { typing } from '../../shell/js/page.js';
import { setAndPost } from './fields.js';

const $ = (selector) => document.querySelector(selector);
const cells = () => $('.contact__cells');

function place() {
  const at = $('#stage')?.table?.loupe.at;
  return at ? { x: at.x.toFixed(2), y: at.y.toFixed(2) } : {};
}

function show(changes) {
  const { address, what, x, y, closer } = cells().dataset;
  const wanted = new URLSearchParams({ what, x, y, closer, ...changes });
  $('.contact').classList.add('is-waiting');
  window.htmx.ajax('GET', `${address}?${wanted}`, { target: '#panel', swap: 'outerHTML' });
}

function close() {
  const panel = $('#panel');
  panel.dataset.kind = '';
  panel.replaceChildren();
  $('#sheet-open')?.setAttribute('aria-pressed', 'false');
  $('#sheet-open')?.focus();
  $('#stage').table.resized();
}

document.addEventListener('htmx:configRequest', (event) => {
  if (event.target.id === 'sheet-open') Object.assign(event.detail.parameters, place());
});
document.addEventListener('htmx:afterSwap', () => {
  $('#sheet-open')?.setAttribute('aria-pressed', String(Boolean(cells())));
  if (cells() && !cells().contains(document.activeElement)) $('.contact__cell.is-chosen')?.focus();
});

document.addEventListener('click', (event) => {
  const target = event.target.closest?.('[data-contact], [data-closer], [data-choose]');
  if (!target || !cells()) return;
  const { contact, closer, choose } = target.dataset;
  if (choose) {
    setAndPost({ choose });
    close();
  } else if (contact === 'close') close();
  else if (contact) show({ what: contact });
  else if (closer) {
    const next = Number(cells().dataset.closer) * Number(closer);
    if (next >= 0.25 && next <= 8) show({ closer: next });
  }
});

// Arrow keys walk from cell to cell, as they lie.
document.addEventListener('keydown', (event) => {
  if (event.key.toLowerCase() === 's' && !typing(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) {
    if (cells()) close();
    else $('#sheet-open')?.click();
    return;
  }
  if (!cells()) return;
  if (event.key === 'Escape') close();
  const all = [...document.querySelectorAll('.contact__cell')];
  const index = all.indexOf(document.activeElement);
  if (index < 0 || !event.key.startsWith('Arrow')) return;
  const across = all.filter((one) => one.offsetTop === all[0].offsetTop).length;
  const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -across, ArrowDown: across }[event.key];
  event.preventDefault();
  all[Math.min(Math.max(index + step, 0), all.length - 1)].focus();
});

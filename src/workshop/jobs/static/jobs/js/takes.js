// Takes: kept, flipped through and opened by keys.

import { typing } from '../../shell/js/page.js';

const $ = (selector) => document.querySelector(selector);
const cards = () => [...document.querySelectorAll('.take[data-take]')];
const camel = (name) => name.replace(/-(\w)/g, (_, letter) => letter.toUpperCase());

let peeked = -1;

// What the page says of a take, as the table reads it.
export function pieceOf(element) {
  const said = Object.entries(JSON.parse(element.dataset.piece));
  const data = Object.fromEntries(said.map(([name, value]) => [camel(name), String(value)]));
  return { ...data, take: element.dataset.take };
}

function peek(index) {
  const all = cards();
  peeked = index >= 0 && index < all.length ? index : -1;
  all.forEach((card, i) => card.classList.toggle('is-peeked', i === peeked));
  const card = all[peeked];
  card?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  $('#stage').table.peek(card ? pieceOf(card) : null, card ? `${card.dataset.title}: Enter opens it, Esc goes back` : '');
}

document.addEventListener('keydown', (event) => {
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  const all = cards();
  const card = all[peeked] ?? $('.take.is-current');
  if (event.key === ']' && all.length) peek(peeked + 1);
  else if (event.key === '[' && all.length) peek(peeked < 0 ? all.length - 1 : peeked - 1);
  else if (event.key === 'Escape' && peeked >= 0) peek(-1);
  else if (event.key === 'Enter' && peeked >= 0 && !event.target.closest?.('button, a, summary')) card.querySelector('.take__open').click();
  else if (event.key.toLowerCase() === 'k') $('#take-keep')?.click();
  else if (event.key.toLowerCase() === 'p') card?.querySelector('.take__pin').click();
  else if (event.key.toLowerCase() === 'v') {
    if ($('.compare')) $('[data-compare=close]').click();
    else $('#take-compare')?.click();
  } else return;
  event.preventDefault();
});

// New cards came: whatever was peeked at is over.
document.addEventListener('htmx:oobAfterSwap', (event) => {
  if (event.target.id === 'takes' || event.detail.target?.id === 'takes') peek(-1);
});
// Once named, a card is folded again.
document.addEventListener('htmx:beforeSwap', (event) => {
  const more = event.detail.requestConfig?.elt?.closest?.('.take__more');
  if (more && event.detail.xhr.status < 400) more.open = false;
});
// Only one card is being named at a time.
document.addEventListener('toggle', (event) => {
  if (!event.target.matches?.('.take__more') || !event.target.open) return;
  document.querySelectorAll('.take__more[open]').forEach((one) => {
    if (one !== event.target) one.open = false;
  });
  event.target.querySelector('input').focus();
}, true);

// How an answer comes into the page: what is alike stays the same node, what hands
// have typed stays as it is, and the focus stays where it was or close by.

import { forget, holds, isFaulty, isField, kept } from './ledger.js';

const FOCUSABLE = 'a[href], button:not(:disabled), input:not(:disabled):not([type=hidden]), select:not(:disabled), textarea:not(:disabled), summary, [tabindex="0"]';
const { Idiomorph } = window;

// Values that came while a field was held; shown once it is left untouched.
const later = new WeakMap();

// A number that follows from another one says so beside the field that is held.
function tell(old, fresh) {
  const place = old.matches('.control > .input, .slide__num > .input') ? old.parentElement : null;
  if (!place) return;
  if (old.value === old.defaultValue && fresh.value !== old.value) place.dataset.later = fresh.value;
  else delete place.dataset.later;
}
document.addEventListener('input', (event) => delete event.target.parentElement?.dataset.later);

function spare(old, fresh) {
  if (!(old instanceof Element)) return true;
  if (old.dataset?.own !== undefined) return false; // a script's own, empty in every answer
  // A fold stays as hands left it, unless a fault stands in it.
  if (old.matches('.fold') && fresh.matches?.('.fold')) fresh.open = old.open || Boolean(fresh.querySelector('.fault'));
  if (old.matches('form') && old.dataset.of !== fresh.dataset?.of) forget(old);
  // A refused value stays, and the sentence beside it, until it is tried again.
  if (old.matches('.num, .slide') && [...old.querySelectorAll('[name]')].some(isFaulty)) {
    if (!fresh.querySelector('.fault')) return false;
  }
  if (!isField(old) && !kept(old)) return true;
  if (old.type !== fresh.type) return true;
  if (!holds(old)) {
    later.delete(old);
    return true;
  }
  later.set(old, fresh.cloneNode(true));
  tell(old, fresh);
  for (const name of ['aria-invalid', 'aria-describedby']) {
    if (fresh.hasAttribute(name)) old.setAttribute(name, fresh.getAttribute(name));
    else old.removeAttribute(name);
  }
  // Typed over, its value is its own: what would be shown may already be noted.
  if (old.matches('input, textarea') && old.value !== old.defaultValue) old.defaultValue = fresh.defaultValue;
  return false;
}
// What a hand unfolds it folds; of the folds of a station see above.
const mayChange = (name, node) => name !== 'open' || node.matches('.fold');
const SPARING = { morphStyle: 'outerHTML', callbacks: { beforeNodeMorphed: spare, beforeAttributeUpdated: mayChange } };

document.addEventListener('focusout', (event) => {
  const field = event.target;
  setTimeout(() => {
    const fresh = later.get(field);
    if (!fresh || !field.isConnected || holds(field)) return;
    later.delete(field);
    delete field.parentElement.dataset.later;
    Idiomorph.morph(field, fresh, { morphStyle: 'outerHTML' });
    field.dispatchEvent(new CustomEvent('ember:fresh', { bubbles: true }));
  });
});

window.htmx.defineExtension('ember', {
  isInlineSwap: (style) => style === 'morph',
  handleSwap(style, target, fragment) {
    const fresh = fragment.firstElementChild;
    if (style !== 'morph' || !fresh) return false;
    // Another station, another form: nothing of the old one is meant by the new.
    if (target.dataset.station !== fresh.dataset.station) {
      target.replaceWith(fresh);
      return [fresh];
    }
    return Idiomorph.morph(target, fresh, SPARING);
  },
});

// A form with a button of its own is done with once it was taken.
document.addEventListener('htmx:beforeSwap', (event) => {
  const form = event.detail.requestConfig?.elt;
  if (form?.matches?.('form:not([data-ledger])') && event.detail.xhr.status < 400) forget(form);
});

// <template data-for="id"> brings another part anew, where the page still shows it.
document.addEventListener('htmx:afterSwap', () => {
  for (const brought of document.querySelectorAll('template[data-for]')) {
    const place = document.getElementById(brought.dataset.for);
    const told = new CustomEvent('ember:adopt', { detail: brought.dataset.for, cancelable: true });
    if (place && document.dispatchEvent(told)) {
      const fresh = brought.content.firstElementChild;
      place.replaceWith(fresh);
      window.htmx.process(fresh);
    }
    brought.remove();
  }
});

// The focus

let lost = null; // where it was, and what was round it
const seen = (node) => node.getClientRects().length > 0;
const words = (node) => node.getAttribute('aria-label') ?? node.textContent.trim();

function remember() {
  const at = document.activeElement;
  if (!at || at === document.body) return;
  const whole = at.closest('#stations, #panel, #takes, #head, #stub') ?? at.parentElement?.closest('[id]');
  if (!whole) return;
  const round = [];
  for (let node = at.parentElement; node && node !== whole; node = node.parentElement) round.push(node);
  lost = { at, id: at.id, tag: at.tagName, words: words(at), whole: whole.id, station: whole.dataset.station, round };
}
// What is left around it: no neighbour, for a second press of Enter must do nothing else.
function ground(whole) {
  const place = lost.round.find((node) => node.isConnected && seen(node)) ?? whole;
  if (!place.hasAttribute('tabindex')) place.setAttribute('tabindex', '-1');
  return place;
}
function recover() {
  const at = document.activeElement;
  // A button that was put out keeps the focus for a moment, and then loses it.
  const kept = at && at !== document.body && at.isConnected && !at.disabled && seen(at);
  if (kept) lost = null;
  if (!lost) return;
  const whole = document.getElementById(lost.whole);
  if (!whole) return;
  const all = [...whole.querySelectorAll(FOCUSABLE)].filter(seen);
  if (!all.length) return; // it comes with another answer
  // Another station: what had the focus is not there, and its neighbours mean something else.
  const opened = whole.dataset.station !== lost.station && whole.querySelector('[aria-expanded=true]');
  const same = opened || (lost.at.isConnected && all.includes(lost.at) && lost.at)
    || all.find((one) => lost.id && one.id === lost.id)
    || all.find((one) => one.tagName === lost.tag && words(one) === lost.words)
    || ground(whole);
  const another = same !== lost.at;
  lost = null;
  same.focus({ preventScroll: true });
  // Stepped into like by Tab: what is typed next stands for all of it.
  if (another && same.matches('input.input')) same.select();
}
document.addEventListener('pointerdown', () => { lost = null; }, true);
document.addEventListener('htmx:beforeSwap', remember);
document.addEventListener('htmx:oobBeforeSwap', remember);
document.addEventListener('htmx:afterSettle', recover);
document.addEventListener('htmx:afterRequest', () => setTimeout(recover));

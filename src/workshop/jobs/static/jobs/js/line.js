// What changes the job goes to the server one after the other: fields as they were
// left, buttons in the order they were pressed. Nothing overtakes, nothing is lost.

import * as ledger from '../../shell/js/ledger.js';
import { keepUnsent, letGo, sendKept } from './kept.js';
import { say } from '../../shell/js/page.js';

const AGAIN_MS = 1500;
const SETTLED_MS = 150;
const STILL = 'Still at it. What you type meanwhile is kept, and sent next.';
const SLOW_MS = 900; // so long an answer may take without a word
const FORM = 'form[data-ledger]';
const forms = () => [...document.querySelectorAll(FORM)];
const wanted = new Map(); // form -> whether only its pictures are wanted
const waiting = []; // buttons: { form, values, live } or { issue }
let flying = null; // what is on its way: { xhr, form, carried, act }
let lost = false;

const anyUnsent = () => forms().some((form) => ledger.unsent(form).length);

// Post what was changed in a form; live, only what is seen of it is wanted back.
export function post(form, { live = false } = {}) {
  if (!form) return;
  wanted.set(form, (wanted.get(form) ?? true) && live);
  pump();
}

// A button's values: of fields in sight as if typed, of hidden ones beside them.
// `values` may be a function of the form, which then sees the newest.
// `dropped` is called where the order is not sent, since what went before was refused.
export function act(form, values, { live = false, dropped = null } = {}) {
  waiting.push({ id: form.id, values, live, dropped });
  pump();
}
const drop = () => waiting.splice(0).forEach((order) => order.dropped?.());
const after = (then) => {
  waiting.push({ issue: then });
  pump();
};

function pump() {
  if (flying) return;
  const typed = forms().find((form) => ledger.unsent(form).length && waiting.length);
  if (typed && !wanted.has(typed)) {
    ledger.leaveAll(typed); // whoever pressed a button was done typing
    wanted.set(typed, false);
  }
  const [next] = wanted;
  if (next) {
    wanted.delete(next[0]);
    if (next[0].isConnected) launch(next[0], next[1], null);
    else pump();
    return;
  }
  const order = waiting.shift();
  if (!order) return;
  if (order.issue) {
    order.issue();
    if (!flying) setTimeout(pump);
  } else run(order);
}

function run(order) {
  const form = document.getElementById(order.id);
  if (!form) {
    order.dropped?.();
    return pump();
  }
  const values = typeof order.values === 'function' ? order.values(form) : order.values;
  const beside = {};
  for (const [name, value] of Object.entries(values)) {
    const field = form.elements[name];
    if (field && field.type !== 'hidden') ledger.put(form, name, String(value));
    else beside[name] = String(value);
  }
  launch(form, order.live, { ...order, values: beside });
}

function launch(form, live, order) {
  flying = { form, carried: ledger.send(form), order };
  const own = flying;
  setTimeout(() => flying?.carried === own.carried && !lost && waits(true), SLOW_MS);
  form.dispatchEvent(new CustomEvent(live ? 'live' : 'send', { bubbles: false }));
  if (!flying?.xhr) landed();
}

// While an answer is late the page says so; nothing has to be waited for.
let late = false;
function waits(is) {
  if (late === is) return;
  late = is;
  if (is) say(STILL, { stays: true });
  else if (document.querySelector('#said')?.textContent === STILL) say(''); // not what the answer says
}

function landed() {
  flying = null;
  waits(false);
  setTimeout(pump);
}

// Only what was changed is told, and what the page showed before.
function body(form, carried, order) {
  const all = new FormData(form);
  const told = new FormData();
  form.querySelectorAll('[data-always]').forEach((field) => told.append(field.name, field.value));
  const names = new Set(carried.keys());
  for (const [name, value] of Object.entries(order?.values ?? {})) {
    told.append('changed', name);
    told.append(name, value);
    names.delete(name);
  }
  for (const name of names) {
    told.append('changed', name);
    told.append(`was:${name}`, ledger.shownBefore(form, name));
    all.getAll(name).forEach((value) => told.append(name, value));
  }
  return told;
}

// The same of all that the job does not hold yet, for a look at what it would make.
export const asTyped = (form) => body(form, new Map(ledger.pending(form).map((name) => [name, 0])), null);

const isLedger = (node) => node?.matches?.(FORM);
const base = () => document.querySelector('#pictures')?.dataset ?? {};
// Orders of a person that change or need the job as it stands; stopping never waits.
function isOrder({ elt, target, verb, triggeringEvent }) {
  if (elt?.closest?.('[data-at-once]')) return false;
  const byHand = triggeringEvent && !['load', 'revealed', 'every'].includes(triggeringEvent.type) && triggeringEvent.type !== 'htmx:load';
  return verb === 'post' || (Boolean(byHand) && ['stations', 'panel'].includes(target?.id));
}

// What was drawn has no click of its own, so it is told of one.
function pressed(element) {
  element?.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true }));
}

document.addEventListener('htmx:confirm', (event) => {
  const { detail } = event;
  if (isLedger(detail.elt) || !isOrder(detail)) return;
  if (!flying && !waiting.length && !wanted.size && !anyUnsent()) return;
  event.preventDefault();
  waiting.push({
    issue: () => {
      if (detail.elt.isConnected) detail.issueRequest(true);
      else if (detail.elt.id) pressed(document.getElementById(detail.elt.id));
    },
  });
  pump();
});
document.addEventListener('htmx:configRequest', (event) => {
  const { detail } = event;
  const { state, unit } = base();
  if (state) detail.headers['X-Base'] = state;
  if (unit) detail.headers['X-Units'] = unit;
  // What the page has of the takes is not sent once more.
  const takes = document.querySelector('#takes')?.dataset.shown;
  if (takes) detail.headers['X-Takes'] = takes;
  if (!isLedger(detail.elt) || flying?.form !== detail.elt) return;
  if (detail.triggeringEvent?.type === 'live') detail.headers['X-Live'] = '1';
  detail.parameters = body(detail.elt, flying.carried, flying.order);
});
document.addEventListener('htmx:beforeRequest', (event) => {
  const { requestConfig, xhr } = event.detail;
  if (isLedger(requestConfig.elt)) flying = { ...flying, xhr };
  else if (requestConfig.headers['X-Look']) flying = { xhr };
  else if (isOrder(requestConfig) && !requestConfig.elt.closest('[data-passes]')) flying = { xhr };
  else return;
  xhr.addEventListener('loadend', landed);
});

// What came back: taken, or refused at its field.
document.addEventListener('htmx:beforeSwap', (event) => {
  const { xhr } = event.detail;
  if (!flying || flying.xhr !== xhr) return;
  if (lost) regained();
  const { form, carried } = flying;
  if (!form) {
    if (xhr.status >= 400) drop();
    return;
  }
  if (xhr.status >= 400) {
    ledger.failed(form, carried);
    drop();
  } else if (xhr.getResponseHeader('X-Faults')) {
    ledger.arrived(form, carried, new Set(xhr.getResponseHeader('X-Faults').split(',')));
    drop(); // whoever pressed them did not know of the fault
  } else ledger.arrived(form, carried, new Set());
});
// The fault is brought into sight, the keys with it unless they are at work elsewhere.
document.addEventListener('htmx:afterSettle', (event) => {
  if (!event.detail.xhr?.getResponseHeader('X-Faults')) return;
  const fault = document.querySelector('.station__body .fault');
  const list = fault?.closest('.stations');
  if (!list) {
    say('That was not taken: the page was older than the job. It shows the job as it stands now.', { stays: true });
    return;
  }
  const [a, b] = [fault.getBoundingClientRect(), list.getBoundingClientRect()];
  if (a.top < b.top || a.bottom > b.bottom) list.scrollBy(0, a.top - b.top - b.height / 3);
});

// The program is away: what was typed is marked, kept, and sent when it is back.
function mark() {
  for (const form of forms()) {
    const open = new Set(lost ? ledger.unsent(form) : []);
    if (lost) keepUnsent(form, body(form, new Map([...open].map((name) => [name, 0])), null), base().unit);
    else letGo(form);
    for (const field of form.elements) field.classList.toggle('is-unsent', open.has(field.name));
  }
}
function regained() {
  lost = false;
  mark();
  // The answer brings its own sentence, or none; this one comes after it.
  setTimeout(() => say('The program is back; what you typed is saved.'), SETTLED_MS);
}
document.addEventListener('htmx:sendError', (event) => {
  if (!flying || flying.xhr !== event.detail.xhr) return;
  const { form, carried, order } = flying;
  lost = true;
  if (form) {
    ledger.failed(form, carried);
    if (order) waiting.unshift({ ...order, live: false });
    else wanted.set(form, false);
    say('Not saved yet; it is sent when the program is back.', { stays: true });
    const { xhr } = flying;
    flying = { form, carried: new Map(), xhr };
    xhr.removeEventListener('loadend', landed);
    setTimeout(landed, AGAIN_MS);
  } else waiting.length = 0;
  mark();
});

document.addEventListener('ember:leave', (event) => {
  event.preventDefault();
  after(event.detail);
});
// A page that was reloaded may have been made before what it flushed had arrived.
const LEFT = 'ember-left';
function lookForFlushed() {
  try {
    if (sessionStorage.getItem(LEFT) !== location.pathname) return;
    sessionStorage.removeItem(LEFT);
    [400, 2500].forEach((wait) => setTimeout(lookAgain, wait, 'own'));
  } catch { /* private windows have no storage */ }
}
// Whether the job is still what the page shows; where it is, nothing in the page moves.
function lookAgain(whose) {
  const row = document.querySelector('.station__row[aria-expanded=true]');
  if (!row || flying || waiting.length || wanted.size || anyUnsent()) return null;
  const asked = { source: row, target: '#stations', swap: 'morph', headers: { 'X-Look': whose } };
  return window.htmx.ajax('GET', row.getAttribute('hx-get'), asked);
}
// A page that comes back into sight, or that is touched after a rest, may be stale.
const REST_MS = 20_000;
let touched = performance.now();
function lookForOthers() {
  touched = performance.now();
  if (document.visibilityState === 'visible') lookAgain('others');
}
document.addEventListener('visibilitychange', lookForOthers);
addEventListener('focus', lookForOthers);
['pointerdown', 'keydown'].forEach((kind) => document.addEventListener(kind, () => {
  if (performance.now() - touched > REST_MS) lookForOthers();
  touched = performance.now();
}, true));

// What came of somebody else is marked for a while at its field.
const shown = new WeakMap(); // the request of an answer -> the page's values before it
const values = () => new Map([...document.querySelectorAll('#stations [id^=f-]')].map((one) => [one.id, one.value]));
document.addEventListener('htmx:beforeSwap', ({ detail }) => {
  if (detail.xhr.getResponseHeader('X-Meanwhile')) shown.set(detail.xhr, values());
});
document.addEventListener('htmx:afterSettle', ({ detail }) => {
  const before = shown.get(detail.xhr);
  if (!before) return;
  shown.delete(detail.xhr);
  for (const [id, value] of values()) {
    const field = document.getElementById(id);
    if (before.has(id) && before.get(id) !== value) field.classList.add('is-come');
    field.addEventListener('animationend', () => field.classList.remove('is-come'), { once: true });
  }
});
// What an earlier page could not send goes first.
sendKept().then(async (sent) => {
  if (!sent) {
    lookForFlushed();
    return;
  }
  await lookAgain('own');
  setTimeout(() => say('What could not be sent before is saved now.'), SETTLED_MS);
});
// A page that is left takes nothing typed with it.
addEventListener('pagehide', () => {
  for (const form of forms()) {
    ledger.leaveAll(form);
    const names = new Map([...(flying?.form === form ? flying.carried : []), ...ledger.send(form)]);
    if (!names.size) continue;
    if (lost) keepUnsent(form, body(form, names, null), base().unit);
    const { state, unit } = base();
    const headers = { 'HX-Request': 'true', 'X-Base': state, 'X-Units': unit, ...JSON.parse(document.body.getAttribute('hx-headers')) };
    try {
      sessionStorage.setItem(LEFT, location.pathname);
    } catch { /* private windows have no storage */ }
    fetch(form.getAttribute('hx-post'), { method: 'POST', body: body(form, names, null), headers, keepalive: true });
  }
});

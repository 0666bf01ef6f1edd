// Fields of a station: sliders that work under the finger, buttons that set values.

const LIVE_EVERY_MS = 40;
const $ = (selector, root = document) => root.querySelector(selector);
const stationForm = () => $('#station-form');
const ofStation = (field) => field.form === stationForm();

function paint(slider) {
  const share = (slider.value - slider.min) / (slider.max - slider.min);
  slider.style.setProperty('--v', `${Math.min(Math.max(share, 0), 1) * 100}%`);
}
export function paintAll(root = document) {
  root.querySelectorAll('input[type=range]').forEach(paint);
}

function show(slider) {
  const field = document.getElementById(slider.dataset.for);
  if (field) field.value = String(Number(slider.value));
  paint(slider);
}

// At once, then at most so often, and the last value always.
let waiting = 0;
let last = 0;
function live() {
  if (waiting) return;
  const wait = last + LIVE_EVERY_MS - performance.now();
  if (wait <= 0) postNow();
  else waiting = setTimeout(postNow, wait);
}
export const postLive = live;
function postNow() {
  waiting = 0;
  last = performance.now();
  stationForm()?.dispatchEvent(new CustomEvent('live', { bubbles: false }));
}

document.addEventListener('input', (event) => {
  if (!event.target.matches('input[type=range][data-for]')) return;
  show(event.target);
  if (ofStation(event.target)) live();
});
// A slider posts only live: an answer that brought new fields would take it from
// under the finger, or eat the next press of an arrow key.
document.addEventListener('change', (event) => {
  if (event.target.matches?.('input[type=range][data-for]') && ofStation(event.target)) event.stopPropagation();
}, true);
document.addEventListener('dblclick', (event) => {
  const field = event.target.closest?.('input[data-plain]') ?? event.target.closest?.('label')?.control;
  if (field?.dataset.plain === undefined) return;
  field.value = field.dataset.plain;
  if (field.type === 'range') {
    show(field);
    if (ofStation(field)) live();
    else field.form?.dispatchEvent(new Event('change', { bubbles: true }));
  } else field.dispatchEvent(new Event('change', { bubbles: true }));
});

// Arrow keys count up and down in a field; with Shift ten times as fast.
let counting = 0;
document.addEventListener('keydown', (event) => {
  const field = event.target;
  const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
  if (!way || !field.matches?.('input.input[data-step]')) return;
  const value = Number(field.value);
  if (field.value.trim() === '' || !Number.isFinite(value)) return;
  event.preventDefault();
  const step = Number(field.dataset.step) * (event.shiftKey ? 10 : 1);
  field.value = String(Number((value + way * step).toFixed(6)));
  clearTimeout(counting);
  counting = setTimeout(() => document.getElementById(field.id)?.dispatchEvent(new Event('change', { bubbles: true })), 350);
});

// data-set="name=value;name=value": a button that fills fields and posts them.
document.addEventListener('click', (event) => {
  const button = event.target.closest?.('[data-set]');
  if (!button) return;
  setAndPost(Object.fromEntries(button.dataset.set.split(';').map((pair) => pair.split('='))));
});
// data-add="name=1": a button that adds to a field and posts it.
document.addEventListener('click', (event) => {
  const button = event.target.closest?.('[data-add]');
  if (!button) return;
  const [name, by] = button.dataset.add.split('=');
  setAndPost((form) => ({ [name]: Number(form.elements[name].value || 0) + Number(by) }));
});
// While a request is under way the next values wait: its answer brings a new form.
let busy = false;
const held = [];
export function setAndPost(values) {
  if (busy) {
    held.push(values);
    return;
  }
  const form = stationForm();
  if (!form) return;
  // What adds to a value must see the newest one.
  const fresh = typeof values === 'function' ? values(form) : values;
  for (const [name, value] of Object.entries(fresh)) form.elements[name].value = value;
  form.dispatchEvent(new Event('change', { bubbles: true }));
}
// A station that is opened meanwhile opens after the answer, which would close it again.
let opens = '';
document.addEventListener('click', (event) => {
  const row = event.target.closest?.('.station__row');
  if (!row || !busy) return;
  event.stopImmediatePropagation();
  opens = row.id;
}, true);
const ofForm = (event) => event.detail.requestConfig?.elt?.id === 'station-form';
// Of a form that another answer took away htmx tells nothing more; its request does.
document.addEventListener('htmx:beforeRequest', (event) => {
  if (event.target.id === 'station-form') event.detail.xhr.addEventListener('loadend', answered);
});
function answered() {
  busy = false;
  setTimeout(() => {
    if (held.length) setAndPost(held.shift());
    const row = opens;
    opens = '';
    if (row) document.getElementById(row)?.click();
  });
}

document.addEventListener('htmx:configRequest', (event) => {
  if (event.detail.triggeringEvent?.type === 'live') event.detail.headers['X-Live'] = '1';
});
// What is changed while an answer is on its way is kept, and posted after it.
let sent = {};
let late = [];
let marked = null;
const inSight = (form) => [...form.elements].filter((field) => field.name && field.type !== 'hidden' && field.id);
const state = (field) => (/checkbox|radio/.test(field.type) ? field.checked : field.value);

document.addEventListener('htmx:configRequest', (event) => {
  if (event.target.id !== 'station-form') return;
  busy = event.detail.triggeringEvent?.type !== 'live';
  sent = Object.fromEntries(inSight(event.target).map((field) => [field.id, state(field)]));
});
document.addEventListener('htmx:beforeSwap', (event) => {
  const form = stationForm();
  const field = document.activeElement;
  marked = field?.matches?.('#station-form input.input')
    && field.selectionStart !== null
    ? { id: field.id, start: field.selectionStart, end: field.selectionEnd } : null;
  const live = event.detail.requestConfig?.triggeringEvent?.type === 'live';
  if (live) late = []; // its answer leaves the fields alone
  else if (ofForm(event) && form) {
    late = inSight(form).filter((one) => one.id in sent && state(one) !== sent[one.id]);
  } else {
    const dirty = field?.matches?.('#station-form input.input') && field.value !== field.defaultValue;
    late = dirty ? [field] : [];
  }
  late = late.map((one) => ({ id: one.id, state: state(one), typing: one === field && one.matches('input.input') }));
});
document.addEventListener('htmx:afterSwap', () => {
  const kept = late;
  late = [];
  for (const one of kept) {
    const field = document.getElementById(one.id);
    if (!field) continue;
    if (typeof one.state === 'boolean') field.checked = one.state;
    else field.value = one.state;
    if (one.typing) postWhenLeft(field);
  }
  // htmx gives focus back, but not a selection that starts at the first character:
  // what is typed next would be put before the old value.
  const again = document.getElementById(marked?.id);
  if (again && again === document.activeElement) again.setSelectionRange(marked.start, marked.end);
  if (kept.some((one) => !one.typing)) {
    setTimeout(() => stationForm()?.dispatchEvent(new Event('change', { bubbles: true })));
  }
});

// What a script put into a field is no change to the browser, which would let it be left silently.
function postWhenLeft(field) {
  let told = false;
  field.addEventListener('change', () => { told = true; }, { once: true });
  field.addEventListener('blur', () => {
    if (!told && field.isConnected) field.dispatchEvent(new Event('change', { bubbles: true }));
  }, { once: true });
}

document.addEventListener('htmx:load', (event) => paintAll(event.detail.elt));
paintAll();

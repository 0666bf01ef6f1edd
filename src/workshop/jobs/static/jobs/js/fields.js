// Fields of a station: sliders that work under the finger, buttons that set values.

const LIVE_EVERY_MS = 40;
const $ = (selector, root = document) => root.querySelector(selector);
const stationForm = () => $('#station-form');

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
  if (wait <= 0) postLive();
  else waiting = setTimeout(postLive, wait);
}
function postLive() {
  waiting = 0;
  last = performance.now();
  stationForm()?.dispatchEvent(new CustomEvent('live', { bubbles: false }));
}

document.addEventListener('input', (event) => {
  if (!event.target.matches('input[type=range][data-for]')) return;
  show(event.target);
  live();
});
// A slider posts only live: an answer that brought new fields would take it from
// under the finger, or eat the next press of an arrow key.
document.addEventListener('change', (event) => {
  if (event.target.matches?.('input[type=range][data-for]')) event.stopPropagation();
}, true);
document.addEventListener('dblclick', (event) => {
  const slider = event.target.closest?.('input[type=range][data-plain]');
  if (!slider) return;
  slider.value = slider.dataset.plain;
  show(slider);
  live();
});

// data-set="name=value;name=value": a button that fills fields and posts them.
document.addEventListener('click', (event) => {
  const button = event.target.closest?.('[data-set]');
  if (!button) return;
  setAndPost(Object.fromEntries(button.dataset.set.split(';').map((pair) => pair.split('='))));
});
export function setAndPost(values) {
  const form = stationForm();
  if (!form) return;
  for (const [name, value] of Object.entries(values)) form.elements[name].value = value;
  form.dispatchEvent(new Event('change', { bubbles: true }));
}

document.addEventListener('htmx:configRequest', (event) => {
  if (event.detail.triggeringEvent?.type === 'live') event.detail.headers['X-Live'] = '1';
});
// What is being typed while an answer comes in is kept.
let typed = null;
document.addEventListener('htmx:beforeSwap', (event) => {
  const field = document.activeElement;
  const dirty = field?.matches?.('#station-form input.input') && field.value !== field.defaultValue;
  const own = event.detail.requestConfig?.triggeringEvent?.target === field;
  typed = dirty && !own ? { id: field.id, value: field.value } : null;
});
document.addEventListener('htmx:afterSwap', () => {
  const field = typed && document.getElementById(typed.id);
  if (field) field.value = typed.value;
  typed = null;
});

document.addEventListener('htmx:load', (event) => paintAll(event.detail.elt));
paintAll();

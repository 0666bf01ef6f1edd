// Fields of a station: left, typed, slid and counted; what is changed is posted.

import * as ledger from '../../shell/js/ledger.js';
import { glance, looking } from './glance.js';
import { act, post } from './line.js';

const LIVE_EVERY_MS = 40;
const PAUSE_MS = 160; // a slider that pauses this long is written
const SLIDE_MS = 3000; // and one that goes on and on, so often,
const LOOK_MS = 1000; // at the latest so much later
const REST_MS = 600; // a slider that rests this long has the sentences follow
const TYPE_AHEAD_MS = 1000; // how long a select waits for the next letter
const $ = (selector, root = document) => root.querySelector(selector);
const stationForm = () => $('#station-form');
const ofStation = (field) => field.form === stationForm();
const posts = (field) => field?.form?.matches?.('[data-ledger]');
const SLIDER = 'input[type=range][data-for]';

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
let rest = 0;
let pause = 0;
let unwritten = 0; // since when something was moved that is not written
export function postLive() {
  clearTimeout(rest);
  rest = setTimeout(() => post(stationForm()), REST_MS);
  if (waiting) return;
  const wait = last + LIVE_EVERY_MS - performance.now();
  if (wait <= 0) postNow();
  else waiting = setTimeout(postNow, wait);
}
function postNow() {
  waiting = 0;
  last = performance.now();
  // The picture alone first; what is written, and what is said of it, follows at a pause.
  if (!glance(stationForm())) write();
  else {
    unwritten ||= last;
    if (pause && last - unwritten > SLIDE_MS) return;
    clearTimeout(pause);
    pause = setTimeout(write, PAUSE_MS);
  }
}
// Not beside a look, where that can be: both would be had later.
function write() {
  clearTimeout(pause);
  pause = 0;
  if (looking() && performance.now() - unwritten < SLIDE_MS + LOOK_MS) {
    pause = setTimeout(write, LIVE_EVERY_MS);
    return;
  }
  unwritten = 0;
  post(stationForm(), { live: true });
}

document.addEventListener('input', (event) => {
  if (!event.target.matches(SLIDER)) return;
  show(event.target);
  if (ofStation(event.target)) postLive();
});

// A field is posted when it is left, a switch when it is pressed.
let keyed = null; // the select that letters are being typed at
let letters = 0;
document.addEventListener('keydown', (event) => {
  if (event.target.matches?.('select') && event.key !== 'Tab') keyed = { field: event.target, at: performance.now() };
}, true);
function afterLetters(field) {
  clearTimeout(letters);
  letters = setTimeout(() => {
    keyed = null;
    if (!field.isConnected) return;
    ledger.leave(field);
    post(field.form);
  }, TYPE_AHEAD_MS);
}
document.addEventListener('change', (event) => {
  const field = event.target;
  if (!posts(field) || field.type === 'file' || field.matches('[data-setting], [data-keep]')) return;
  if (field.matches(SLIDER) && ofStation(field)) return; // it posts while it moves
  ledger.touch(field);
  if (keyed?.field === field && performance.now() - keyed.at < TYPE_AHEAD_MS) {
    afterLetters(field);
    return;
  }
  ledger.leave(field);
  post(field.form);
});
document.addEventListener('focusout', (event) => {
  const field = event.target;
  if (!posts(field) || !ledger.isField(field)) return;
  if (keyed?.field === field) {
    clearTimeout(letters);
    keyed = null;
  }
  ledger.leave(field);
  // Typed as it was shown before, it is no change to the browser, but to the job it may be.
  if (ledger.unsent(field.form).includes(field.name)) setTimeout(() => post(field.form));
});
document.addEventListener('submit', (event) => {
  if (!event.target.matches('[data-ledger]')) return;
  event.preventDefault();
  ledger.leaveAll(event.target);
  post(event.target);
});

document.addEventListener('dblclick', (event) => {
  const field = event.target.closest?.('input[data-plain]') ?? event.target.closest?.('label')?.control;
  if (field?.dataset.plain === undefined) return;
  field.value = field.dataset.plain;
  ledger.touch(field);
  ledger.leave(field);
  if (field.type === 'range') show(field);
  if (field.type === 'range' && ofStation(field)) postLive();
  else if (posts(field)) post(field.form);
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
  ledger.touch(field);
  clearTimeout(counting);
  counting = setTimeout(() => {
    if (!posts(field)) return;
    ledger.leave(field);
    post(field.form);
  }, 350);
});

// A thumb has no arrow keys: buttons beside a slider move it by a step.
document.addEventListener('click', (event) => {
  const button = event.target.closest?.('[data-steps]');
  const slider = button?.closest('.slide').querySelector(SLIDER);
  if (!slider) return;
  const field = document.getElementById(slider.dataset.for);
  const step = Math.max(Number(field.dataset.step), Number(slider.step));
  const value = Number((Number(field.value) + Number(button.dataset.steps) * step).toFixed(6));
  // What was typed beyond the slider's ends stays where it is.
  if (!Number.isFinite(value) || value < Number(slider.min) || value > Number(slider.max)) return;
  slider.value = String(value);
  slider.dispatchEvent(new Event('input', { bubbles: true }));
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
export function setAndPost(values, how) {
  const form = stationForm();
  if (form) act(form, values, how);
}

for (const form of document.querySelectorAll('[data-ledger]')) {
  if (ledger.unsent(form).length) post(form); // typed before this was there
}
document.addEventListener('htmx:load', (event) => paintAll(event.detail.elt));
document.addEventListener('ember:fresh', (event) => paintAll(event.target.parentElement));
paintAll();

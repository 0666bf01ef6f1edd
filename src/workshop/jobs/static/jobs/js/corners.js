// Four corners of a photographed sheet, dragged on the file itself.

import { setAndPost } from './fields.js';

const $ = (selector) => document.querySelector(selector);
const NAMES = ['Top left', 'Top right', 'Bottom right', 'Bottom left'];
const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
let corners = null;

const hold = (value) => Math.min(Math.max(value, -0.2), 1.2);

function buttons(on) {
  document.querySelectorAll('[data-corners]').forEach((button) => {
    button.hidden = (button.dataset.corners === 'begin') === on;
  });
}

function show() {
  const image = $('#squaring img');
  const box = image.getBoundingClientRect();
  const place = $('#squaring').getBoundingClientRect();
  const at = corners.map(([x, y]) => [box.left - place.left + x * box.width, box.top - place.top + y * box.height]);
  $('#squaring polygon').setAttribute('points', at.map((pair) => pair.join(',')).join(' '));
  document.querySelectorAll('#squaring button').forEach((handle, i) => {
    handle.style.transform = `translate(${at[i][0]}px, ${at[i][1]}px)`;
  });
}

function move(index, x, y) {
  corners[index] = [hold(x), hold(y)];
  show();
}

function begin() {
  const place = $('#squaring');
  const image = place.querySelector('img');
  const had = $('#pictures').dataset.corners;
  corners = had ? JSON.parse(had) : [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]];
  place.hidden = false;
  image.onload = () => {
    show();
    place.querySelector('button').focus();
  };
  image.src = `${$('#stage').dataset.base}file.jpg?${Date.now()}`;
  buttons(true);
}

function leave() {
  corners = null;
  const place = $('#squaring');
  if (place) place.hidden = true;
  buttons(false);
}

function use() {
  const value = JSON.stringify(corners.map((pair) => pair.map((share) => Math.round(share * 1e5) / 1e5)));
  leave();
  setAndPost({ corners: value });
}

document.addEventListener('click', (event) => {
  const act = { begin, leave, use }[event.target.closest?.('[data-corners]')?.dataset.corners];
  act?.();
});
document.querySelectorAll('#squaring button').forEach((handle, index) => {
  handle.setAttribute('aria-label', `${NAMES[index]} corner. Arrow keys move it.`);
  handle.addEventListener('pointerdown', (event) => {
    event.preventDefault();
    handle.focus();
    handle.setPointerCapture(event.pointerId);
    handle.onpointermove = (now) => {
      const box = $('#squaring img').getBoundingClientRect();
      move(index, (now.clientX - box.left) / box.width, (now.clientY - box.top) / box.height);
    };
  });
  const end = () => { handle.onpointermove = null; };
  handle.addEventListener('pointerup', end);
  handle.addEventListener('pointercancel', end);
  handle.addEventListener('keydown', (event) => {
    const step = STEP[event.key];
    if (step) {
      event.preventDefault();
      event.stopPropagation();
      const far = event.shiftKey ? 0.02 : event.altKey ? 0.0005 : 0.004;
      move(index, corners[index][0] + step[0] * far, corners[index][1] + step[1] * far);
    } else if (event.key === 'Enter') {
      event.preventDefault();
      use();
    }
  });
});
document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape' && corners) leave();
});
addEventListener('resize', () => corners && show());
document.addEventListener('htmx:afterSwap', (event) => {
  if (event.target.id !== 'stations' || !corners) return;
  if ($('[data-corners=begin]')) buttons(true);
  else leave();
});

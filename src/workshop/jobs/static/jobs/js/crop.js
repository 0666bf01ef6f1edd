// Crop on the table with Cropper.js (a global of its script); posts shares of the picture.

import { setAndPost } from './fields.js';

const $ = (selector) => document.querySelector(selector);
let cropper = null;

function ratio() {
  const data = $('#pictures').dataset;
  return $('#f-lock_ratio')?.checked ? Number(data.blankWidth) / Number(data.blankHeight) : NaN;
}

function buttons(cropping) {
  document.querySelectorAll('[data-crop]').forEach((button) => {
    button.hidden = (button.dataset.crop === 'begin') === cropping;
  });
}

function begin() {
  const place = $('#cropping');
  const image = place.querySelector('img');
  place.hidden = false;
  image.src = `${$('#stage').dataset.base}uncropped.jpg?${Date.now()}`;
  image.onload = () => {
    const form = $('#station-form').elements;
    const share = (name) => Number(form[`crop_${name}`].value);
    cropper = new window.Cropper(image, {
      viewMode: 1,
      aspectRatio: ratio(),
      autoCropArea: 1,
      background: false,
      zoomable: false,
      ready() {
        const { naturalWidth: w, naturalHeight: h } = image;
        cropper.setData({ x: share('left') * w, y: share('top') * h, width: share('width') * w, height: share('height') * h });
        place.querySelector('.cropper-crop-box')?.setAttribute('aria-label', 'Crop');
        $('[data-crop=use]')?.focus();
      },
    });
  };
  buttons(true);
}

function leave() {
  cropper?.destroy();
  cropper = null;
  const place = $('#cropping');
  if (place) place.hidden = true;
  buttons(false);
}

function use() {
  const image = cropper.getImageData();
  const data = cropper.getData();
  const hold = (value) => Math.min(Math.max(value, 0), 1);
  const left = hold(data.x / image.naturalWidth);
  const top = hold(data.y / image.naturalHeight);
  const values = {
    crop_left: left,
    crop_top: top,
    crop_width: Math.min(data.width / image.naturalWidth, 1 - left),
    crop_height: Math.min(data.height / image.naturalHeight, 1 - top),
  };
  leave();
  setAndPost(values);
}

document.addEventListener('click', (event) => {
  const act = { begin, leave, use }[event.target.closest('[data-crop]')?.dataset.crop];
  act?.();
});
document.addEventListener('change', (event) => {
  if (event.target.id === 'f-lock_ratio') cropper?.setAspectRatio(ratio());
});
document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape' && cropper) leave();
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (!cropper || !step || event.target.matches('input, select')) return;
  event.preventDefault();
  const data = cropper.getData();
  const px = event.altKey ? 1 : 10;
  if (event.shiftKey) cropper.setData({ ...data, width: data.width + step[0] * px, height: data.height + step[1] * px });
  else cropper.setData({ ...data, x: data.x + step[0] * px, y: data.y + step[1] * px });
});
document.addEventListener('htmx:afterSwap', (event) => {
  if (event.target.id !== 'stations' || !cropper) return;
  if ($('[data-crop=begin]')) {
    buttons(true);
    cropper.setAspectRatio(ratio());
  } else leave();
});

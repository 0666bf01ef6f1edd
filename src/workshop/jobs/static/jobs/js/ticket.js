// The ticket and the table: wires the parts together.

import './fields.js';
import './keys.js';
import './bed.js';
import './operations.js';
import './crop.js';
import './corners.js';
import './curve.js';
import './contact.js';
import './takes.js';
import './compare.js';
import './folds.js';
import './path.js';
import './strip.js';
import { Drawing } from './draw.js';
import { Letters } from './letters.js';
import { Outlines } from './outlines.js';
import { Surface } from './surface.js';
import { Table } from './table.js';

const stage = document.querySelector('#stage');
const table = new Table(stage);
table.start();
table.drawing = new Drawing(table);
table.letters = new Letters(table);
table.outlines = new Outlines(table);
table.surface = new Surface(table);
// For tests and the curious: what is on the table, and since when.
stage.table = table;

import { describe, expect, test } from 'vitest';
import Floor from './house/Floor.svelte';
import Nowhere from './house/Nowhere.svelte';
import Round from './house/Round.svelte';
import People from './people/People.svelte';
import Rollout from './rollout/Rollout.svelte';
import MySeat from './seat/MySeat.svelte';
import Seat from './seat/Seat.svelte';
import { viewAt, type Viewer } from './routes';

const SUPERVISOR: Viewer = { house: true, people: false, seat: '' };
const EDITOR: Viewer = { house: false, people: false, seat: 'pan-03' };
const NOBODY: Viewer = { house: false, people: false, seat: '' };

const at = (path: string, viewer = SUPERVISOR) => viewAt(path.split('/').filter(Boolean), viewer);

describe('an address', () => {
	test.each<[string, Viewer, unknown]>([
		['', SUPERVISOR, Round],
		['', EDITOR, MySeat],
		['', NOBODY, Floor],
		['my-seat', EDITOR, MySeat],
		['my-seat', NOBODY, Nowhere],
		['people', SUPERVISOR, Nowhere],
		['people', { ...SUPERVISOR, people: true }, People],
		['seats/pan-03', SUPERVISOR, Seat],
		['seats', SUPERVISOR, Nowhere],
		['seats/pan-03/other', SUPERVISOR, Nowhere],
		['rollouts/12', SUPERVISOR, Rollout],
		['rollouts/x', SUPERVISOR, Nowhere],
		['rollouts/12345678901', SUPERVISOR, Nowhere],
		['no/such/thing', SUPERVISOR, Nowhere]
	])('/%s shows its view', (path, viewer, view) => {
		expect(at(path, viewer).view === view).toBe(true);
	});

	test('says what the view is about', () => {
		expect(at('rollouts/12').given).toEqual({ number: 12 });
		expect(at('seats/pan-03/compare').given).toEqual({ name: 'pan-03' });
		expect(at('my-seat', EDITOR).given).toEqual({ seat: 'pan-03' });
	});

	test('begins the view anew for another seat, and keeps that of dialects', () => {
		expect(at('seats/pan-03').key).not.toBe(at('seats/pan-04').key);
		expect(at('dialects/corrow').key).toBe(at('dialects').key);
	});
});

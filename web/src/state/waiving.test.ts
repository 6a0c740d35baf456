import { expect, it } from 'vitest';
import { waiving } from './waiving.svelte';

const at = (seat: string, setting: string, app: string | null) => ({ seat, setting, app, title: setting });

it('accepts each setting once, on every seat that was chosen', () => {
	waiving.begin([
		at('pan-03', 'memory.held_back', 'corrow'),
		at('loft-01', 'memory.held_back', 'corrow'),
		at('loft-01', 'memory.held_back', 'glaize'),
		at('loft-01', 'power.profile', null)
	]);
	expect(waiving.seats).toEqual(['loft-01', 'pan-03']);
	expect(waiving.settings.map((one) => [one.setting, one.app])).toEqual([
		['memory.held_back', 'corrow'],
		['memory.held_back', 'glaize'],
		['power.profile', null]
	]);
	expect(waiving.open).toBe(true);
	waiving.close();
	expect([waiving.open, waiving.seats]).toEqual([false, []]);
});

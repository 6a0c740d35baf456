import { render } from 'svelte/server';
import { describe, expect, it } from 'vitest';
import Level from './Level.svelte';

const WORDS = 'Held back is 1.5 GiB, house wants at least 6.4 GiB, 4.3 times too small';

function drawn(status: string, distance: number | null = null, severity = 'should'): string {
	return render(Level, { props: { status, distance, severity, words: WORDS } }).body;
}

describe('the level', () => {
	it('says in words what it draws, for those who hear it', () => {
		expect(drawn('off-norm', -2)).toContain(`aria-label="${WORDS}"`);
		expect(drawn('off-norm', -2)).toContain('role="img"');
	});

	it('draws every state with a shape of its own', () => {
		const states: [string, number | null][] = [
			['in-norm', null],
			['off-norm', -2],
			['off-norm', null],
			['waived', 1],
			['unread', null],
			['no-norm', null]
		];
		const shapes = states.map(([status, distance]) =>
			drawn(status, distance).replaceAll(/style="[^"]*"/g, '')
		);
		expect(new Set(shapes).size).toBe(states.length);
	});

	it('repeats the severity by colour alone', () => {
		expect(drawn('off-norm', -2, 'must')).toContain(' must');
		expect(drawn('off-norm', -2, 'advise')).toContain(' off');
	});

	it('marks what is further away than it can show with a tick', () => {
		expect(drawn('off-norm', -16)).toContain('capped');
		expect(drawn('off-norm', -2)).not.toContain('capped');
	});
});

import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { read } from '../api/queries';
import { OpenDraft } from './openDraft.svelte';

const edition = (number: number) => ({ number, text: `edition ${number}` });

describe('the draft that is open', () => {
	beforeEach(() => {
		vi.useFakeTimers(); // the server is not asked
		vi.spyOn(read, 'edition').mockImplementation(((number: number) =>
			Promise.resolve(edition(number))) as never);
	});
	afterEach(() => {
		vi.restoreAllMocks();
		vi.useRealTimers();
	});

	it('begins anew once its text is published', () => {
		const opened = new OpenDraft();
		opened.begin('edition 1', 1);
		opened.draft?.write('mine');
		opened.published('mine', 2);
		expect([opened.draft?.text, opened.draft?.changed, opened.base]).toEqual(['mine', false, 2]);
	});

	it('stays with what was begun before the answer came, on top of what is published', async () => {
		const opened = new OpenDraft();
		opened.begin('edition 1', 1);
		opened.draft?.write('mine');
		opened.keep({ id: 7, seen: 'x' });
		await opened.goBackTo(1);
		opened.published('mine', 2);
		expect([opened.draft?.text, opened.base, opened.kept]).toEqual(['edition 1', 2, null]);
	});

	it('takes an older edition that comes late into the draft that is open by then', async () => {
		const opened = new OpenDraft();
		opened.begin('edition 1', 1);
		opened.draft?.write('mine');
		const going = opened.goBackTo(1);
		opened.published('mine', 2);
		await going;
		expect([opened.draft?.text, opened.draft?.changed, opened.base]).toEqual(['edition 1', true, 2]);
	});
});

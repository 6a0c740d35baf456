import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api, Problem } from '../api/client';
import { Draft } from './draft.svelte';

type Answer = { resolve: (sentence: string) => void; reject: (error: Error) => void };
const answers: Answer[] = [];

/** The server, at whose door each question waits until the test answers it. */
function ask(): Promise<unknown> {
	return new Promise((resolve, reject) => {
		const told = (sentence: string) => resolve({ data: { impact: { sentence }, layers: [], warnings: [] } });
		answers.push({ resolve: told, reject });
	});
}

async function settled(): Promise<void> {
	await vi.advanceTimersByTimeAsync(0);
}

describe('a draft of the standard', () => {
	beforeEach(() => {
		vi.useFakeTimers();
		answers.length = 0;
		vi.spyOn(api, 'POST').mockImplementation(ask as never);
	});
	afterEach(() => {
		vi.restoreAllMocks();
		vi.useRealTimers();
	});

	it('asks once after the last key, not at each', async () => {
		const draft = new Draft('a');
		for (const text of ['ab', 'abc', 'abcd']) draft.write(text);
		expect([draft.asking, answers.length]).toEqual([true, 0]);
		await vi.advanceTimersByTimeAsync(1000);
		expect(answers).toHaveLength(1);
	});

	it('may be published once the server found it sound', async () => {
		const draft = new Draft('a');
		draft.write('ab');
		await vi.advanceTimersByTimeAsync(1000);
		expect(draft.sound).toBe(false);
		answers[0]?.resolve('opens none');
		await settled();
		expect([draft.sound, draft.told?.impact.sentence]).toEqual([true, 'opens none']);
		draft.write('a');
		expect(draft.changed).toBe(false);
	});

	it('drops an answer to a text that is no longer there', async () => {
		const draft = new Draft('a');
		draft.write('ab');
		await vi.advanceTimersByTimeAsync(1000);
		draft.write('abc');
		await vi.advanceTimersByTimeAsync(1000);
		answers[1]?.resolve('the newer');
		await settled();
		answers[0]?.resolve('the older');
		await settled();
		expect(draft.told?.impact.sentence).toBe('the newer');
	});

	it('keeps the faults with their places', async () => {
		const draft = new Draft('a');
		draft.write('ab');
		await vi.advanceTimersByTimeAsync(1000);
		const fault = { message: 'unknown setting', path: '', line: 8, column: 11, expected: '' };
		answers[0]?.reject(new Problem(422, 'Refused whole', 'unknown setting', [fault]));
		await settled();
		expect([draft.faults, draft.sound, draft.asking]).toEqual([[fault], false, false]);
	});
});

import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api, Problem } from '../../api/client';
import { Lesson } from './lesson.svelte';

const CHANGED = {
	file: 'corrow/8/preferences.xml',
	at: '/memory/spare',
	format: 'xml',
	before: '1536',
	after: null,
	candidates: [{ setting: 'memory.held_back' }]
};
type Asked = [path: string, options: { body?: unknown }];
let asked: Asked[];

/** A folder that somebody chose in the browser. */
function folder(files: Record<string, string>): FileList {
	const list = Object.entries(files).map(([path, text]) =>
		Object.assign(new Blob([text]), { name: path.split('/').pop(), webkitRelativePath: path })
	);
	return list as unknown as FileList;
}

beforeEach(() => {
	asked = [];
	vi.spyOn(api, 'POST').mockImplementation(((path: string, options: Asked[1]) => {
		asked.push([path, options]);
		const answer = path.endsWith('/watch') ? { order: 'o1' } : { changed: [CHANGED], sure: true };
		return Promise.resolve({ data: answer });
	}) as never);
});
afterEach(() => {
	vi.restoreAllMocks();
	vi.useRealTimers();
});

describe('a lesson', () => {
	it('asks what differs once it has both sides, their paths under the folder', async () => {
		const lesson = new Lesson();
		await lesson.take('before', folder({ 'x/8/a.xml': '<a/>', 'x/8/b.xml': 'ü' }));
		expect([lesson.count('before'), asked.length]).toEqual([2, 0]);
		await lesson.take('after', folder({ 'y/8/a.xml': '<b/>' }));
		expect(asked).toEqual([
			[
				'/api/v1/dialects/teach',
				{
					body: {
						before: { '8/a.xml': 'PGEvPg==', '8/b.xml': 'w7w=' },
						after: { '8/a.xml': 'PGIvPg==' },
						idle: []
					}
				}
			]
		]);
		expect([lesson.setting, lesson.samples]).toEqual([
			'memory.held_back',
			[
				{ native: '1536', told: '' },
				{ native: '', told: '' }
			]
		]);
	});

	it('learns from what was told, and says where a key was not there', async () => {
		const lesson = new Lesson();
		await lesson.take('before', folder({ 'x/a.xml': '1' }));
		await lesson.take('after', folder({ 'x/a.xml': '2' }));
		lesson.more();
		lesson.samples = lesson.samples.map((sample, index) => ({
			...sample,
			told: ['1.5 GiB', 'none', ' '][index] ?? ''
		}));
		await lesson.learn('corrow', 'text');
		expect(asked.at(-1)?.[1].body).toMatchObject({
			app: 'corrow',
			setting: 'memory.held_back',
			samples: [
				{ native: '1536', told: '1.5 GiB' },
				{ native: null, told: 'none' }
			]
		});
	});

	it('waits for a seat until its files are here', async () => {
		vi.useFakeTimers();
		const answers = [{ here: false }, { here: false }, { here: true, files: { 'a.xml': 'PGEvPg==' } }];
		vi.spyOn(api, 'GET').mockImplementation((() => Promise.resolve({ data: answers.shift() })) as never);
		const lesson = new Lesson();
		const done = lesson.watch('before', 'corrow', 'pan-03');
		expect(lesson.asking).toBe('before');
		await vi.advanceTimersByTimeAsync(1500);
		await done;
		expect([lesson.asking, lesson.count('before'), lesson.refused]).toEqual(['', 1, '']);
	});

	it('gives a seat up after half a minute, and says what it waits for when two people are asked', async () => {
		vi.useFakeTimers();
		vi.spyOn(api, 'GET').mockImplementation((() => Promise.resolve({ data: { here: false } })) as never);
		const lesson = new Lesson();
		const done = lesson.watch('before', 'corrow', 'pan-03');
		await vi.advanceTimersByTimeAsync(31_000);
		await done;
		expect(lesson.refused).toContain('did not answer within 30 seconds');
		vi.spyOn(api, 'POST').mockRejectedValue(
			new Problem(202, 'Waiting for approval', 'it waits for a second person', [])
		);
		await lesson.watch('after', 'corrow', 'pan-03');
		expect([lesson.refused, lesson.asking]).toEqual(['it waits for a second person', '']);
	});
});

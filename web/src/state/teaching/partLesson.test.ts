import { afterEach, expect, it, vi } from 'vitest';
import { api, Problem } from '../../api/client';
import { PartLesson } from './partLesson.svelte';

afterEach(() => {
	vi.restoreAllMocks();
});

const learnt = { learnt: '^x/', sure: true, why: 'the production is the first folder', text: '# kept' };

it('learns from the paths that were filled in', async () => {
	const asked = vi.spyOn(api, 'POST').mockResolvedValue({ data: learnt } as never);
	const lesson = new PartLesson();
	lesson.samples = [{ path: 'mill/a.mkv', production: 'Mill', project: '' }];
	lesson.more();
	expect(await lesson.learnStore('corrow', '# text')).toBe(true);
	expect(asked.mock.calls[0]?.[1]).toEqual({
		body: {
			app: 'corrow',
			kind: 'renders',
			samples: [{ path: 'mill/a.mkv', production: 'Mill', project: '' }],
			text: '# text'
		}
	});
	expect(lesson.learnt).toEqual(learnt);
});

it('shows a project by its bytes, and lets go of what was learnt before where that is refused', async () => {
	const asked = vi.spyOn(api, 'POST').mockResolvedValueOnce({ data: learnt } as never);
	const lesson = new PartLesson();
	await lesson.learnProject('corrow', '', new File(['<a/>'], 'mill.corrow'));
	expect(asked.mock.calls[0]?.[1]).toEqual({
		body: { app: 'corrow', name: 'mill.corrow', file: btoa('<a/>'), text: '' }
	});
	asked.mockRejectedValue(new Problem(422, 'Not explained', 'no value looks like a path', []));
	expect(await lesson.learnProject('corrow', '', new File([''], 'x'))).toBe(false);
	expect([lesson.learnt, lesson.acts.refused]).toEqual([undefined, 'no value looks like a path']);
});

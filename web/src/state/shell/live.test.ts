import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { queryClient } from '../../api/queries';
import { live } from './live.svelte';

/** The browser's event source, as far as news need it. */
class Source {
	static readonly CLOSED = 2;
	static all: Source[] = [];
	readyState = 1;
	onopen?: () => void;
	onerror?: () => void;
	onmessage?: (event: { data: string }) => void;

	constructor(readonly url: string) {
		Source.all.push(this);
	}
	close(): void {
		this.readyState = Source.CLOSED;
	}
	tell(topic: string, id: string): void {
		this.onmessage?.({ data: JSON.stringify({ topic, id }) });
	}
}

let asked: string[][];
let stop: () => void;

beforeEach(() => {
	vi.useFakeTimers();
	vi.stubGlobal('EventSource', Source);
	Source.all = [];
	asked = [];
	vi.spyOn(queryClient, 'invalidateQueries').mockImplementation((filter) => {
		asked.push((filter?.queryKey as string[] | undefined) ?? ['all']);
		return Promise.resolve();
	});
	stop = live.start();
});

afterEach(() => {
	stop();
	vi.restoreAllMocks();
	vi.unstubAllGlobals();
	vi.useRealTimers();
});

it('reads anew once what a handful of news is about', () => {
	for (const seat of ['pan-01', 'pan-02', 'pan-03']) Source.all[0]?.tell('seat', seat);
	Source.all[0]?.tell('rollout', '4');
	expect(asked).toEqual([]);
	vi.advanceTimersByTime(500);
	expect(asked).toEqual([['seat'], ['rollout'], ['ledger']]);
});

it('reads everything anew when the server says so', () => {
	Source.all[0]?.tell('everything', '');
	vi.advanceTimersByTime(500);
	expect(asked).toContainEqual([]);
});

it('gathers news for as long as reading anew takes, several times over', async () => {
	vi.mocked(queryClient.invalidateQueries).mockImplementation((filter) => {
		asked.push(filter?.queryKey as string[]);
		return new Promise((done) => setTimeout(done, 400));
	});
	Source.all[0]?.tell('seat', 'pan-01');
	await vi.advanceTimersByTimeAsync(200);
	Source.all[0]?.tell('seat', 'pan-02');
	await vi.advanceTimersByTimeAsync(1500);
	expect(asked).toEqual([['seat'], ['ledger']]);
	await vi.advanceTimersByTimeAsync(1000);
	expect(asked).toHaveLength(4);
});

it('reads again soon what it reads fast', async () => {
	vi.mocked(queryClient.invalidateQueries).mockImplementation((filter) => {
		asked.push(filter?.queryKey as string[]);
		return new Promise((done) => setTimeout(done, 100));
	});
	Source.all[0]?.tell('rollout', '1');
	await vi.advanceTimersByTimeAsync(60);
	Source.all[0]?.tell('rollout', '1');
	await vi.advanceTimersByTimeAsync(250);
	expect(asked).toHaveLength(4);
});

it('says when it hears nothing, and comes back by itself', async () => {
	const first = Source.all[0];
	if (!first) throw new Error('no source was opened');
	first.close();
	first.onerror?.();
	expect(live.connected).toBe(false);
	await vi.advanceTimersByTimeAsync(5000);
	expect(Source.all).toHaveLength(2);
	Source.all[1]?.onopen?.();
	expect(live.connected).toBe(true);
});

it('opens no other stream for somebody who was signed out', async () => {
	stop();
	stop = live.start(() => Promise.resolve(stop()));
	const [, source] = Source.all;
	source?.close();
	source?.onerror?.();
	await vi.advanceTimersByTimeAsync(5000);
	expect(Source.all).toHaveLength(2);
});

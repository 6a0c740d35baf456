import { describe, expect, it } from 'vitest';
import type { Schemas } from '../api/client';
import { DEVICES, NewTrial, addressOf, addressOfRepeat } from './newTrial.svelte';

const POOL = 'memory.preview_pool corrow';
const ROW: Omit<Schemas['TriableOut'], 'setting' | 'app' | 'wanted'> = {
	title: '',
	help: '',
	here: '',
	values: [],
	open: false,
	ordered: true,
	unit: '',
	jobs: ['play', 'render', 'decode', 'disk']
};

function asked(address: string): NewTrial {
	const trial = new NewTrial();
	trial.read(new URLSearchParams(address));
	return trial;
}

describe('the address of a trial', () => {
	it('names each seat and each reading once, and screens where there are several', () => {
		const pool = { setting: 'memory.preview_pool', app: 'corrow' };
		const power = { setting: 'power.profile', app: null, value: 'performance' };
		expect(asked(addressOf(['pan-01', 'pan-01'], [pool, pool]).split('?')[1] ?? '')).toMatchObject({
			kind: 'change',
			seats: ['pan-01'],
			wanted: [{ key: POOL, value: '' }]
		});
		const both = asked(addressOf(['pan-01', 'pan-02'], [pool, power]).split('?')[1] ?? '');
		expect(both).toMatchObject({ kind: 'screening', seats: ['pan-01', 'pan-02'] });
		expect(both.wanted[1]).toEqual({ key: 'power.profile', value: 'performance' });
	});
});

describe('a trial that is run again', () => {
	const TRIAL = {
		id: 7,
		kind: 'ladder',
		job: 'decode',
		matters: 1.05,
		seats: ['pan-01', 'pan-02'],
		clip_id: 4,
		volume: '',
		by_hand: null,
		beside: { job: 'render', app: 'verrano', words: '' },
		conditions: ['2 GiB', '4 GiB', '8 GiB'].map((shown) => ({
			name: shown,
			device: '',
			sets: [{ setting: 'memory.preview_pool', app: 'corrow', value: 1, shown }]
		}))
	} as unknown as Schemas['TrialOut'];
	const again = (more: object) =>
		asked(addressOfRepeat({ ...TRIAL, ...more } as Schemas['TrialOut']).split('?')[1] ?? '');

	it('keeps the values of a ladder, its clip, its threshold and the job beside it', () => {
		const { body } = again({});
		expect(body).toMatchObject({
			kind: 'ladder',
			job: 'decode',
			clip: 4,
			matters: 1.05,
			beside: { job: 'render', app: 'verrano' },
			because: 'repeats trial 7'
		});
		expect(body?.conditions.map(({ sets }) => sets?.[0]?.value)).toEqual(['2 GiB', '4 GiB', '8 GiB']);
	});

	it('keeps the devices that were compared, and the volume', () => {
		const conditions = ['cpu', 'gpu0'].map((device) => ({ name: device, device, sets: [] }));
		const choice = again({ kind: 'choice', beside: null, conditions });
		expect(choice.body?.conditions.map(({ device }) => device)).toEqual(['cpu', 'gpu0']);
		const disk = again({ kind: 'choice', job: 'disk', clip_id: null, volume: 'v1', beside: null });
		expect([disk.body?.job, disk.body?.volume]).toEqual(['disk', 'v1']);
	});

	it('keeps what somebody does by hand', () => {
		const by_hand = { what: '0:10 to 0:40', frames: 750, rate: 25, app: '' };
		const hand = again({ kind: 'choice', job: 'play', beside: null, by_hand }).body;
		expect([hand?.by_hand, hand?.matters]).toEqual([{ ...by_hand }, 1.05]);
	});
});

describe('a new trial', () => {
	it('asks nothing before seats, a setting and a value are there', () => {
		expect(asked('').body).toBeNull();
		expect(asked(`seat=pan-01&set=${POOL}=`).body).toBeNull();
		expect(asked(`set=${POOL}=8 GiB`).body).toBeNull();
	});

	it('sets as it is against one change', () => {
		const body = asked(`seat=pan-01&seat=pan-02&set=${POOL}=8 GiB`).body;
		expect(body?.conditions).toEqual([
			{ sets: [], device: '' },
			{ sets: [{ setting: 'memory.preview_pool', app: 'corrow', value: '8 GiB' }], device: '' }
		]);
		expect([body?.seats, body?.matters, body?.begins]).toEqual([['pan-01', 'pan-02'], 1.03, null]);
	});

	it('compares values of one setting, or devices', () => {
		const trial = asked(`seat=pan-01&kind=choice&set=${POOL}=`);
		trial.values = ['4 GiB', '', '8 GiB'].map((value) => ({ value }));
		expect(trial.body?.conditions.map(({ sets }) => sets?.[0]?.value)).toEqual(['4 GiB', '8 GiB']);
		trial.key = DEVICES;
		trial.values = ['cpu', 'gpu0'].map((value) => ({ value }));
		expect(trial.body?.conditions).toEqual([
			{ sets: [], device: 'cpu' },
			{ sets: [], device: 'gpu0' }
		]);
		trial.kind = 'ladder';
		expect(trial.body).toBeNull();
	});

	it('is run by hand where its seats do not run the job by themselves', () => {
		const trial = asked(`seat=pan-01&set=${POOL}=8 GiB`);
		trial.fill([{ jobs: ['decode', 'disk'] } as unknown as Parameters<typeof trial.fill>[0][number]]);
		expect([trial.needsHand, trial.makesByHand, trial.body]).toEqual([true, true, null]);
		trial.hand.what = '0:10 to 0:40';
		expect(trial.body?.by_hand?.what).toBe('0:10 to 0:40');
		trial.job = 'disk';
		expect([trial.needsHand, trial.makesByHand]).toEqual([false, false]);
	});

	it('decodes a clip, and moves data of a volume, once they are named', () => {
		const trial = asked(`seat=pan-01&set=${POOL}=8 GiB`);
		trial.job = 'decode';
		expect(trial.body).toBeNull();
		trial.clip = 4;
		expect(trial.body?.clip).toBe(4);
		trial.job = 'disk';
		expect(trial.body).toBeNull();
		trial.volume = 'v1';
		expect([trial.body?.volume, trial.body?.clip]).toEqual(['v1', null]);
	});

	it('watches the job of another application on a ladder alone', () => {
		const trial = asked(`seat=pan-01&kind=ladder&set=${POOL}=`);
		trial.values = ['2 GiB', '4 GiB', '8 GiB'].map((value) => ({ value }));
		expect(trial.body?.beside).toBeNull();
		trial.beside = 'render verrano';
		expect(trial.body?.beside).toEqual({ job: 'render', app: 'verrano' });
		trial.beside = 'decode';
		expect(trial.body).toBeNull();
		trial.clip = 2;
		expect([trial.body?.beside?.job, trial.body?.clip]).toEqual(['decode', 2]);
		trial.kind = 'choice';
		expect([trial.body?.beside, trial.body?.clip]).toEqual([null, null]);
	});

	it('repeats what somebody did by hand', () => {
		const trial = asked(`seat=pan-01&set=${POOL}=8 GiB&what=reel 2&frames=750&rate=25&job=play`);
		expect(trial.body?.by_hand).toEqual({ what: 'reel 2', frames: 750, rate: 25, app: '' });
		const render = asked(`seat=pan-01&set=${POOL}=8 GiB&what=reel 2&app=corrow&job=render`);
		expect([render.body?.job, render.body?.by_hand?.app]).toEqual(['render', 'corrow']);
	});

	it('tries what house standard: where the address names no value', () => {
		const trial = asked(`seat=pan-01&set=${POOL}=&set=power.profile=balanced`);
		trial.fill([
			{ ...ROW, setting: 'memory.preview_pool', app: 'corrow', wanted: '8 GiB' },
			{ ...ROW, setting: 'power.profile', app: null, wanted: 'performance' }
		]);
		expect(trial.wanted.map(({ value }) => value)).toEqual(['8 GiB', 'balanced']);
	});

	it('screens what is off norm', () => {
		const trial = asked('seat=pan-01&kind=screening');
		trial.screen([
			{ ...ROW, setting: 'memory.preview_pool', app: 'corrow', wanted: '8 GiB' },
			{ ...ROW, setting: 'power.profile', app: null, wanted: 'performance' },
			{ ...ROW, setting: 'engine.effects', app: 'corrow', wanted: '' }
		]);
		expect(trial.body?.conditions.map(({ sets }) => [sets?.[0]?.app, sets?.[0]?.value])).toEqual([
			['corrow', '8 GiB'],
			[null, 'performance']
		]);
	});
});

describe('what is missing of a trial', () => {
	it('is listed in the order of the form until the trial can be started', () => {
		const trial = asked('kind=ladder');
		trial.kind = 'ladder';
		expect(trial.missing).toEqual(['select a seat', 'select a setting', 'enter 3 more values']);
		trial.seats = ['pan-01'];
		trial.key = POOL;
		trial.values = [{ value: '1 GiB' }, { value: '2 GiB' }];
		expect(trial.missing).toEqual(['enter 1 more value']);
		expect(trial.body).toBeNull();
		trial.values = [{ value: '1 GiB' }, { value: '2 GiB' }, { value: '4 GiB' }];
		expect(trial.missing).toEqual([]);
		expect(trial.body).not.toBeNull();
	});

	it('agrees with what can be sent', () => {
		const trial = asked(`seat=pan-01&set=${encodeURIComponent(POOL)}=`);
		trial.kind = 'screening';
		expect([trial.missing, trial.body]).toEqual([['add 2 more settings with a value'], null]);
		trial.kind = 'change';
		trial.wanted = [{ key: POOL, value: '8 GiB' }];
		trial.job = 'decode';
		expect([trial.missing, trial.body]).toEqual([['select a reference clip'], null]);
		trial.job = 'disk';
		expect([trial.missing, trial.body]).toEqual([['enter a volume'], null]);
	});
});

import { describe, expect, it } from 'vitest';
import { given, keyOfTitle, partsOf, titleOfKey } from './rule';

const RULE = { setting: 'memory.held_back', at_least: '4 GiB', severity: 'must', because: 'paging' };

describe('a rule in its form', () => {
	it('is read from the fields of the text', () => {
		const parts = partsOf({ setting: 'engine.effects', one_of: ['hadrel', 'opencl'], locked: true });
		expect([parts.check, parts.values, parts.severity, parts.locked]).toEqual([
			'one_of',
			'hadrel, opencl',
			'should',
			true
		]);
	});

	it('writes only what differs', () => {
		const was = partsOf(RULE);
		expect(given(was, { ...was })).toEqual({});
		expect(given(was, { ...was, because: ' ', severity: 'should' })).toEqual({
			because: null,
			severity: null
		});
	});

	it('puts another check in the place of one, with values as TOML has them', () => {
		const was = partsOf(RULE);
		expect(given(was, { ...was, check: 'between', values: '2 GiB, 8 GiB' })).toEqual({
			at_least: null,
			between: ['2 GiB', '8 GiB']
		});
		expect(given(was, { ...was, check: 'want', values: 'false' })).toEqual({ at_least: null, want: false });
		expect(given(partsOf({}), { ...partsOf({}), setting: 'a.b', values: '10' })).toEqual({
			setting: 'a.b',
			want: 10
		});
	});
});

describe('a setting in the form', () => {
	const SETTINGS = [{ key: 'memory.held_back', title: 'Memory reserve' }];

	it('is found by its title or its key, and shown by its title', () => {
		expect(keyOfTitle(SETTINGS, ' memory RESERVE ')).toBe('memory.held_back');
		expect(keyOfTitle(SETTINGS, 'memory.held_back')).toBe('memory.held_back');
		expect(keyOfTitle(SETTINGS, 'memory')).toBeUndefined();
		expect(titleOfKey(SETTINGS, 'memory.held_back')).toBe('Memory reserve');
		expect(titleOfKey(SETTINGS, 'of.an_older_version')).toBe('of.an_older_version');
	});
});

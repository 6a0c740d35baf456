/** What keeps a component readable: blocks at most two deep, and not so long that nobody sees it whole. */
import { parse, type AST } from 'svelte/compiler';
import { expect, test } from 'vitest';

const DEEPEST = 2; // `if` and `each` within one another; a snippet begins anew
const LONGEST = 190; // lines with something on them, its style among them

const sources: Record<string, string> = import.meta.glob('../**/*.svelte', {
	query: '?raw',
	import: 'default',
	eager: true
});

type Node = { type?: string; elseif?: boolean };

/** How many `if` and `each` blocks stand within one another at the deepest place of a tree. */
function deepest(node: unknown, depth = 0): number {
	if (!node || typeof node !== 'object') return depth;
	const { type, elseif } = node as Node;
	const within = type === 'SnippetBlock' ? 0 : depth;
	const here = type === 'EachBlock' || (type === 'IfBlock' && !elseif) ? within + 1 : within;
	return Math.max(here, ...Object.values(node).map((child) => deepest(child, here)));
}

const ofMarkup = (source: string): AST.Fragment => parse(source, { modern: true }).fragment;

test('every component is looked at', () => {
	expect(Object.keys(sources).length).toBeGreaterThan(100);
});

test.each(Object.entries(sources))('%s', (_, source) => {
	expect(deepest(ofMarkup(source))).toBeLessThanOrEqual(DEEPEST);
	expect(source.split('\n').filter((line) => line.trim()).length).toBeLessThanOrEqual(LONGEST);
});

test('what is too deep is seen', () => {
	const nested = '{#if a}{#each b as c}{#if c}x{/if}{/each}{/if}';
	expect(deepest(ofMarkup(nested))).toBe(3);
	expect(deepest(ofMarkup('{#if a}x{:else if b}y{:else}z{/if}'))).toBe(1);
});

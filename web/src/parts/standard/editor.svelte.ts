import {
	autocompletion,
	completionKeymap,
	type CompletionContext,
	type CompletionResult
} from '@codemirror/autocomplete';
import { untrack } from 'svelte';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching, HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { Attachment } from 'svelte/attachments';
import type { Fault, Schemas } from '../../api/client';

type Options = {
	text: string;
	label?: string;
	readonly: boolean;
	faults: () => Fault[];
	words?: () => Schemas['WordsOut'] | undefined;
	onchange: (text: string) => void;
};

const toml = StreamLanguage.define<{ value: boolean }>({
	startState: () => ({ value: false }),
	token(stream, state) {
		if (stream.sol()) state.value = false;
		if (stream.eatSpace()) return null;
		if (stream.match(/^#.*/)) return 'comment';
		if (!state.value && stream.match(/^\[\[?[^\]]*\]?\]?/)) return 'heading';
		if (stream.match(/^"(?:[^"\\]|\\.)*"?/) || stream.match(/^'[^']*'?/)) return 'string';
		if (stream.match(/^=/)) {
			state.value = true;
			return 'operator';
		}
		if (state.value && stream.match(/^(true|false|[\d.]+)/)) return 'number';
		stream.next();
		return state.value ? null : 'propertyName';
	}
});

const colours = HighlightStyle.define([
	{ tag: tags.heading, color: 'var(--kelp)', fontWeight: '600' },
	{ tag: tags.string, color: 'var(--ink)' },
	{ tag: tags.comment, color: 'var(--muted)', fontStyle: 'italic' },
	{ tag: tags.number, color: 'var(--plum)' },
	{ tag: tags.propertyName, color: 'var(--muted)' }
]);

const look = EditorView.theme({
	'&': { fontSize: '0.87rem', maxHeight: '66vh' },
	'.cm-content, .cm-gutters': { fontFamily: 'var(--font-mono, monospace)' },
	'.cm-gutters': { background: 'var(--wash)', color: 'var(--muted)', border: 'none' },
	'.cm-activeLine': { background: 'color-mix(in srgb, var(--wash) 55%, transparent)' },
	'.cm-tooltip-autocomplete ul li[aria-selected]': { background: 'var(--kelp)', color: 'var(--paper)' },
	'.cm-completionDetail': { color: 'inherit', fontStyle: 'normal', opacity: '0.75' },
	'.cm-cursor': { borderLeftColor: 'var(--ink)' },
	'&.cm-focused': { outline: '2px solid var(--kelp)' },
	'.cm-tooltip': { background: 'var(--paper)', color: 'var(--ink)', border: '1px solid var(--rule)' }
});

function diagnostics(state: EditorState, faults: Fault[]): Diagnostic[] {
	return faults.map((fault) => {
		const line = state.doc.line(Math.min(Math.max(fault.line ?? 1, 1), state.doc.lines));
		const from = Math.min(line.from + Math.max((fault.column ?? 1) - 1, 0), line.to);
		const message = fault.expected ? `${fault.message}; expected ${fault.expected}` : fault.message;
		return { from, to: line.to, severity: 'error', message };
	});
}

/** What can follow: the fields of a rule at the start of a line, settings after `setting =`, else names and units. */
function completed(at: CompletionContext, words: Schemas['WordsOut'] | undefined): CompletionResult | null {
	const word = at.matchBefore(/[\w.%]+/);
	if (!words || (!word && !at.explicit)) return null;
	const before = at.state.sliceDoc(at.state.doc.lineAt(at.pos).from, at.pos);
	const from = word?.from ?? at.pos;
	if (/^\s*\w*$/.test(before))
		return { from, options: words.fields.map((label) => ({ label, apply: `${label} = ` })) };
	if (/setting\W*["'][\w.]*$/.test(before) || /setting\(["'][\w.]*$/.test(before))
		return { from, options: words.settings.map(({ key, title }) => ({ label: key, detail: title })) };
	const options = [
		...words.names.map((label) => ({ label })),
		...words.functions.map((label) => ({ label, detail: 'function' })),
		...words.units.map((label) => ({ label, detail: 'unit' }))
	];
	return { from, options };
}

/** A text in TOML, with the server's faults in their places. */
export function editor({
	text,
	label = 'Text of the house standard',
	readonly,
	faults,
	words,
	onchange
}: Options): Attachment<HTMLElement> {
	return (host) => {
		const view = new EditorView({
			parent: host,
			state: EditorState.create({
				doc: text,
				extensions: [
					lineNumbers(),
					history(),
					bracketMatching(),
					EditorView.lineWrapping,
					highlightActiveLine(),
					toml,
					syntaxHighlighting(colours),
					look,
					lintGutter(),
					keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap]),
					...(words
						? [autocompletion({ override: [(at) => completed(at, untrack(words))], icons: false })]
						: []),
					EditorState.readOnly.of(readonly),
					EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
					EditorView.updateListener.of((update) => {
						if (update.docChanged) onchange(update.state.doc.toString());
					})
				]
			})
		});
		$effect(() => view.dispatch(setDiagnostics(view.state, diagnostics(view.state, faults()))));
		return () => view.destroy();
	};
}

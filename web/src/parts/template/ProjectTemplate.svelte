<!-- One project template: each setting with its level, where the file says it, and the seats that it is so on. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Level from '../level/Level.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { template: Schemas['TemplateOut']; acting: boolean };
	let { template, acting }: Props = $props();

	const NAMED = 8;
	const FIRST = 12;
	const correcting = $derived(session.may('correct'));
	let leaving = $state(false);
	const acts = new Acts('standard', 'templates');

	const whose = $derived(template.productions.length ? template.productions.join(', ') : 'all productions');
	const on = $derived(template.seats === 1 ? 'used by 1 seat' : `used by ${template.seats} seats`);

	function seatsTold(seats: string[]): string {
		if (seats.length === template.seats && seats.length > 1) return `all ${seats.length} seats`;
		return seats.length <= NAMED ? seats.join(', ') : `${seats.length} seats`;
	}

	const drop = (): Promise<boolean> => acts.do(() => write.dropTemplate(template.id));
</script>

<section class="template" aria-label={template.name} data-template={template.name}>
	<div class="flex flex-wrap items-baseline gap-x-4">
		<h2 class="text-lg">{template.name}</h2>
		<span>{nameOf(template.app)}; {whose}; {on}</span>
		<span class="ml-auto flex items-baseline gap-3">
			<a class="anchor" href="/api/v1/templates/{template.id}/file" download={template.file}
				>{template.file}</a
			>
			{#if acting && leaving}
				<button class="do" onclick={drop}>Delete template</button>
				<button class="may" onclick={() => (leaving = false)}>Cancel</button>
			{:else if acting}
				<button class="may" onclick={() => (leaving = true)} aria-label="Delete {template.name}"
					>Delete…</button
				>
			{/if}
		</span>
	</div>
	<p class="quiet">
		{template.kept_by}, {moment(template.kept_at)}; SHA-256
		<span class="value" title={template.digest}>{template.digest.slice(0, FIRST)}…</span>
	</p>
	<Refused {acts} />
	{#if template.fault}<p class="mt-2 text-sienna" role="alert">Unreadable: {template.fault}</p>{/if}
	<div class="mt-2">
		{#each template.lines as line (line.setting)}
			{#each line.stands.length ? line.stands : [undefined] as stand, at (at)}
				{@const status = stand?.verdict?.status ?? 'no-norm'}
				<div
					class="line"
					class:whisper={status !== 'off-norm'}
					data-setting={line.setting}
					data-status={status}
				>
					<span>{at ? '' : line.title}</span>
					<span class="gauge"
						><Level
							{status}
							words={stand?.words ?? 'used by no seat'}
							distance={stand?.verdict?.distance ?? null}
							severity={stand?.verdict?.severity ?? ''}
						/></span
					>
					<span class="value" title={line.native ? `${line.native.at}, line ${line.native.line}` : ''}
						>{at ? '' : line.shown}</span
					>
					<span>{stand?.verdict ? `house standard: ${stand.verdict.norm.sentence}` : 'no norm'}</span>
					<span class="quiet"
						>{stand ? seatsTold(stand.seats) : ''}{status === 'off-norm' && stand?.verdict?.because
							? `; ${stand.verdict.because}`
							: ''}</span
					>
				</div>
			{/each}
		{/each}
	</div>
	{#each template.apart as one (one.title + one.shown)}
		<p class="mt-1" data-apart>
			Local copies of {template.file} have {one.title.toLowerCase()} <span class="value">{one.shown}</span> on
			{#each one.seats.slice(0, NAMED) as seat, at (seat)}{at ? ', ' : ''}<a
					class="anchor underline"
					href="/seats/{seat}">{seat}</a
				>{/each}{one.seats.length > NAMED ? ` and ${one.seats.length - NAMED} more` : ''}.
			{#if correcting && one.findings.length}
				<button class="anchor ml-2 underline" onclick={() => correction.plan(one.findings)}
					>Plan correction{one.findings.length < one.seats.length
						? ` where it is off norm (${one.findings.length})`
						: ''}</button
				>
			{/if}
		</p>
	{/each}
</section>

<style>
	.template {
		border-top: 1px solid var(--rule);
		padding-block: 0.9rem 1.2rem;
	}
	.line {
		display: grid;
		grid-template-columns: minmax(8rem, 11rem) 6rem minmax(6rem, 10rem) minmax(8rem, 16rem) minmax(
				10rem,
				1fr
			);
		gap: 0.2rem 1rem;
		align-items: center;
		border-top: 1px solid var(--hair);
		padding-block: 0.32rem;
	}
	.whisper .value {
		color: var(--muted);
	}
	@media (max-width: 760px) {
		.line {
			grid-template-columns: 1fr 6rem;
		}
	}
</style>

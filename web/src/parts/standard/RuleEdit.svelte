<!-- A rule as a sentence with gaps: what it speaks of, what it wants, when, how much it matters and why. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { CHECKS, given, partsOf, type Check } from '../../model/words/rule';

	type Fields = Schemas['RuleEditIn']['fields'];
	type Props = {
		fields: Record<string, unknown>;
		onsave: (fields: Fields) => void;
		onremove?: () => void;
		onclose: () => void;
	};
	let { fields, onsave, onremove, onclose }: Props = $props();

	const words = createQuery(ask.words);
	// svelte-ignore state_referenced_locally (the form begins with the rule as it was when it was opened)
	const was = partsOf(fields);
	let { setting, app, when, because, rests_on } = $state(was);
	let check = $state<Check>(was.check);
	let values = $state(was.values);
	let severity = $state(was.severity);
	let evidence = $state(was.evidence);
	let fix = $state(was.fix);
	let versions = $state(was.versions);
	let locked = $state(was.locked);

	function save(event: SubmitEvent): void {
		event.preventDefault();
		onsave(
			given(was, {
				setting,
				app,
				check,
				values,
				when,
				versions,
				severity,
				because,
				evidence,
				rests_on,
				fix,
				locked
			})
		);
	}
</script>

<form class="gaps" onsubmit={save}>
	<label>
		<span>of</span>
		<input
			class="field"
			list="settings"
			required
			bind:value={setting}
			aria-label="Setting"
			placeholder="memory.held_back"
		/>
	</label>
	<label
		><span>in</span>
		<input
			class="field short"
			bind:value={app}
			aria-label="Application"
			placeholder="any application"
		/></label
	>
	<label>
		<span>it</span>
		<select class="field short" bind:value={check} aria-label="Check">
			{#each CHECKS as [name, told] (name)}<option value={name}>{told}</option>{/each}
		</select>
	</label>
	<input
		class="field value grow"
		required
		bind:value={values}
		aria-label="What it wants"
		placeholder={check === 'between' ? '2 GiB, 8 GiB' : check === 'must' ? 'volume.free >= 120 GB' : '4 GiB'}
	/>
	<label class="w-full"
		><span>when</span>
		<input class="field value grow" bind:value={when} aria-label="When" placeholder="always" /></label
	>
	<label class="w-full"
		><span>because</span>
		<input class="field grow" bind:value={because} aria-label="Because" maxlength="400" /></label
	>
	<label>
		<span>it</span>
		<select class="field short" bind:value={severity} aria-label="Severity"
			><option value="must">must be so</option><option value="should">should be so</option><option
				value="advise">is advised</option
			></select
		>
	</label>
	<label>
		<span>and is</span>
		<select class="field short" bind:value={evidence} aria-label="Evidence"
			><option>measured</option><option>observed</option><option>untested</option></select
		>
	</label>
	{#if evidence !== 'untested'}
		<label class="w-full"
			><span>rests on</span>
			<input
				class="field grow"
				bind:value={rests_on}
				aria-label="Rests on"
				maxlength="300"
				placeholder="the trial that measured it, or where it was observed"
			/></label
		>
	{/if}
	<label
		><span>put right by</span>
		<input class="field value short" bind:value={fix} aria-label="Fix" placeholder="what it wants" /></label
	>
	<label
		><span>for versions</span>
		<input class="field value short" bind:value={versions} aria-label="Versions" placeholder="all" /></label
	>
	<label><input type="checkbox" bind:checked={locked} /> locked</label>
	<div class="flex w-full gap-3">
		<button class="do">Write it into the text</button>
		<button type="button" class="may" onclick={onclose}>Leave it</button>
		{#if onremove}<button type="button" class="may" onclick={onremove}>Remove the rule</button>{/if}
	</div>
	<datalist id="settings">
		{#each words.data?.settings ?? [] as setting (setting.key)}<option value={setting.key}
				>{setting.title}</option
			>{/each}
	</datalist>
</form>

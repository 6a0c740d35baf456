<!-- What one is told of the house, when and by which way; and what one was told. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import ConfirmMail from '../../parts/notices/ConfirmMail.svelte';
	import NoticeChoice from '../../parts/notices/NoticeChoice.svelte';
	import NoticeHooks from '../../parts/notices/NoticeHooks.svelte';
	import ToldNotice from '../../parts/notices/ToldNotice.svelte';

	const choice = createQuery(ask.noticeChoice);
	const told = createQuery(ask.notices);
	const notices = $derived(told.data?.items ?? []);
</script>

<svelte:head><title>Notifications · Normant</title></svelte:head>
<h1 class="mb-4 text-2xl">Notifications</h1>
<div class="sides">
	<section aria-labelledby="choice">
		<h2 id="choice" class="mb-2 text-lg">Settings</h2>
		<Ask of={choice}>
			{#if choice.data}
				<NoticeChoice choice={choice.data} />
				{#if choice.data.mail_asked}<ConfirmMail address={choice.data.mail_asked} />{/if}
				<NoticeHooks
					hooks={choice.data.hooks}
					reachable={Boolean(choice.data.mail) || choice.data.hooks.length > 0}
				/>
			{/if}
		</Ask>
	</section>
	<section aria-labelledby="told">
		<h2 id="told" class="mb-2 text-lg">History</h2>
		<Ask of={told}>
			{#if !notices.length}
				<p class="word">No notifications yet. Send a test to every address that you have set.</p>
			{/if}
			<ul>
				{#each notices as notice, at (notice.id)}
					<ToldNotice {notice} open={at === 0} />
				{/each}
			</ul>
			{#if (told.data?.total ?? 0) > notices.length}
				<p class="quiet mt-2">Latest {notices.length} of {told.data?.total}.</p>
			{/if}
		</Ask>
	</section>
</div>

<style>
	.sides {
		display: grid;
		grid-template-columns: minmax(20rem, 26rem) minmax(0, 1fr);
		gap: 1.5rem 3rem;
		align-items: start;
	}
	@media (max-width: 900px) {
		.sides {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>

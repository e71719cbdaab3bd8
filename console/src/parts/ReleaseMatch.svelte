<!-- Whether a release will run on an account: what fits, what will be red, and who can mend it. -->
<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import Choose, { type Choice } from './Choose.svelte';
	import Fault from './Fault.svelte';

	const { ref }: { ref: string } = $props();
	const WORDS = { fits: 'fits', heed: 'heed', red: 'will be red', unknown: 'not known' } as const;
	let chosen = $state('');
	let match = $state.raw<Schemas['MatchOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);

	async function accounts(q: string): Promise<{ items: Choice[]; total: number }> {
		try {
			const found = await done(api.GET('/api/v1/accounts', { params: { query: { q, limit: 60 } } }));
			return { items: found.items.map((a) => ({ value: a.name, title: a.name })), total: found.total };
		} catch (reason) {
			fault = faultOf(reason);
			return { items: [], total: 0 };
		}
	}
	async function compare(): Promise<void> {
		match = null;
		if (!chosen) return;
		try {
			const query = { account: chosen };
			match = await done(api.GET('/api/v1/releases/{ref}/match', { params: { path: { ref }, query } }));
			fault = null;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
</script>

<section class="match card-paper" aria-labelledby="match">
	<h2 id="match">Will it run there?</h2>
	{#if fault}<Fault {fault} />{/if}
	<div class="choice">
		<Choose
			label="Account"
			bind:value={chosen}
			ask={accounts}
			chosen={() => void compare()}
			none="There is no account yet to compare it with."
		/>
	</div>
	{#if match}
		<p class="quiet small">
			{match.checked_at
				? `As surveyed ${momentOf(match.checked_at)}.`
				: 'Never surveyed: check the account first.'}
		</p>
		<div class="scroll">
			<table>
				<thead
					><tr><th></th><th>The release wants</th><th>The account has</th><th>Who mends it, and how</th></tr
					></thead
				>
				<tbody>
					{#each match.lines as line, index (index)}
						<tr>
							<td class="verdict {line.verdict}">{WORDS[line.verdict]}</td>
							<td>
								{line.need}
								{#if line.where}<span class="code quiet small">{line.where}</span>{/if}
							</td>
							<td>{line.has}</td>
							<td>{line.by ? `${line.by}: ` : ''}{line.how}</td>
						</tr>
					{:else}
						<tr><td colspan="4">It needs nothing in particular.</td></tr>
					{/each}
				</tbody>
			</table>
		</div>
	{/if}
</section>

<style>
	.match {
		margin-top: 1rem;
	}
	h2 {
		margin-bottom: 0.5rem;
	}
	.choice {
		max-width: 24rem;
	}
	.scroll {
		overflow-x: auto;
	}
	table {
		width: 100%;
		border-collapse: collapse;
	}
	th {
		text-align: left;
		font-weight: 600;
	}
	td,
	th {
		padding: 0.3rem 0.8rem 0.3rem 0;
		vertical-align: top;
	}
	td {
		border-top: 1px solid light-dark(var(--color-surface-200), var(--color-surface-800));
	}
	.verdict {
		white-space: nowrap;
		font-weight: 600;
	}
	.red {
		color: light-dark(var(--color-error-700), var(--color-error-300));
	}
	.heed {
		color: light-dark(var(--color-warning-800), var(--color-warning-300));
	}
</style>

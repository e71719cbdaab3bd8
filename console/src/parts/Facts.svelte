<script lang="ts">
	/** Names and values, one below the other; a value may be a link. Empty ones are left out. */
	export interface Fact {
		name: string;
		value: string;
		href?: string;
		code?: boolean;
		note?: string;
	}
	let { facts }: { facts: Fact[] } = $props();
	const web = (href: string): boolean => /^https?:\/\//.test(href) || href.startsWith('/');
</script>

<dl>
	{#each facts.filter((f) => f.value) as fact (fact.name)}
		<dt>{fact.name}</dt>
		<dd>
			{#if fact.href && web(fact.href)}
				<a
					href={fact.href}
					rel={fact.href.startsWith('/') ? undefined : 'noreferrer noopener'}
					target={fact.href.startsWith('/') ? undefined : '_blank'}>{fact.value}</a
				>
			{:else if fact.code}<span class="code">{fact.value}</span>{:else}{fact.value}{/if}
			{#if fact.note}<span class="note">{fact.note}</span>{/if}
		</dd>
	{/each}
</dl>

<style>
	dl {
		display: grid;
		grid-template-columns: minmax(7rem, max-content) minmax(0, 1fr);
		gap: 0.28rem 1.1rem;
	}
	dt {
		color: var(--soft);
	}
	dd {
		overflow-wrap: anywhere;
	}
	.note {
		color: var(--soft);
		font-size: 0.8125rem;
		display: block;
	}
	@media (max-width: 480px) {
		dl {
			grid-template-columns: minmax(0, 1fr);
			gap: 0;
		}
		dd {
			margin-bottom: 0.4rem;
		}
	}
</style>

<script lang="ts">
	import { faultOf, type FaultBody, type Schemas } from '../api/calls';
	import Fault from './Fault.svelte';

	interface Given {
		question: Schemas['QuestionOut'];
		answer: (text: string) => Promise<void>;
	}
	let { question, answer }: Given = $props();
	const id = $props.id();
	let text = $state('');
	let seen = $state(false);
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);

	async function send(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		fault = null;
		try {
			await answer(text);
			text = '';
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<form class="question" onsubmit={send}>
	<label for={id}>{question.text}</label>
	<p class="small quiet">
		For <span class="code">{question.value}</span>, asked in {question.leg}. The job waits for as long as it
		takes; nothing on the host moves meanwhile.
	</p>
	<div class="reply">
		{#if question.options.length}
			<select {id} class="field" bind:value={text} required>
				<option value="" disabled>Choose…</option>
				{#each question.options as option (option)}<option value={option}>{option}</option>{/each}
			</select>
		{:else}
			<input
				{id}
				class="field"
				type={question.secret && !seen ? 'password' : 'text'}
				bind:value={text}
				required
				autocomplete="off"
				spellcheck="false"
			/>
		{/if}
		{#if question.secret}
			<button class="btn btn-lesser" type="button" aria-pressed={seen} onclick={() => (seen = !seen)}>
				{seen ? 'Hide' : 'Show'}
			</button>
		{/if}
		<button class="btn btn-act" type="submit" disabled={busy}>{busy ? 'Answering…' : 'Answer'}</button>
	</div>
	{#if fault}<Fault {fault} />{/if}
</form>

<style>
	.question {
		border: 1px solid var(--line);
		border-left: 5px solid var(--heed);
		background: var(--card);
		padding: 0.85rem 1.1rem 1rem;
		display: grid;
		gap: 0.35rem;
	}
	label {
		font-weight: 680;
		font-size: 1.0625rem;
		overflow-wrap: anywhere;
	}
	.reply {
		display: flex;
		flex-wrap: wrap;
		gap: 0.6rem;
		margin-top: 0.3rem;
	}
	.field {
		flex: 1 1 14rem;
		width: auto;
		max-width: 32rem;
	}
</style>

<script setup lang="ts">
import { useStemImport } from './stemImport';

const stems = useStemImport();
</script>

<template>
  <section v-if="stems.jobs.length" class="panel import" role="status" aria-label="Files coming in">
    <header>
      <b v-if="stems.busy"
        >Bringing in {{ stems.jobs.length }} {{ stems.jobs.length === 1 ? 'file' : 'files' }}</b
      >
      <b v-else>{{ stems.done }} came in, {{ stems.refused.length }} refused</b>
      <button v-if="stems.busy" class="plain boxed" @click="stems.stop">Stop</button>
      <button v-else class="plain boxed" @click="stems.clear">Close</button>
    </header>
    <progress :value="stems.share" max="1" aria-label="Progress" />
    <ul>
      <li v-for="job in stems.jobs" :key="job.name" :class="job.state">
        <span class="name">{{ job.name }}</span>
        <span v-if="job.state === 'sending'" class="mono">{{ Math.round(job.share * 100) }} %</span>
        <span v-else-if="job.state === 'done'">came in</span>
        <span v-else-if="job.state === 'waiting'" class="soft">waits</span>
        <p v-if="job.reason" class="danger">{{ job.reason }}</p>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.import {
  position: absolute;
  right: 16px;
  bottom: 72px;
  width: 360px;
  max-height: 50vh;
  display: flex;
  flex-direction: column;
  padding: 12px;
  z-index: 20;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
progress {
  width: 100%;
  height: 6px;
  margin: 8px 0;
  accent-color: var(--signal);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  font-size: 13px;
}
li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 8px;
  padding: 3px 0;
  border-top: 1px solid var(--rule);
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 240px;
  white-space: nowrap;
}
p {
  margin: 0;
  width: 100%;
}
</style>

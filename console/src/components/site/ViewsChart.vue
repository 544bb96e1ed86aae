<script setup lang="ts">
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { Schemas } from '../../api/client'
import { useTaste } from '../../composables/taste'

use([BarChart, LineChart, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer])

/** Months as bars, limits as lines, and where it is going. */
const props = defineProps<{ views: Schemas['SiteViews'] }>()
const taste = useTaste()
const shown = 24
const next = (m: string, by: number) => {
  const d = new Date(`${m}-01T00:00:00Z`)
  d.setUTCMonth(d.getUTCMonth() + by)
  return d.toISOString().slice(0, 7)
}
const options = computed(() => {
  const css = getComputedStyle(document.documentElement)
  const color = (name: string) => css.getPropertyValue(`--${name}`).trim()
  void taste.dark // the colors are read again when the scheme changes
  const months = props.views.months.slice(-shown)
  const last = months.at(-1)!.month
  // As far as the first limit is passed, at most a year.
  const limit = [...props.views.limits].sort((a, b) => a.cap - b.cap)[0]
  let ahead = 0
  while (limit?.reached && limit.trend > 0 && ahead < 12 && next(last, ahead) < limit.reached) ahead++
  const names = [...months.map((m) => m.month), ...Array.from({ length: ahead }, (_, i) => next(last, i + 1))]
  const trend = names.map((_, i) =>
    i < months.length - 1 || !ahead ? null : months.at(-1)!.views + (limit?.trend ?? 0) * (i - months.length + 1),
  )
  // A round number over all that is shown.
  const most =
    Math.max(1, ...months.map((m) => m.views), ...trend.map((n) => n ?? 0), ...props.views.limits.map((l) => l.cap)) *
    1.02
  const power = 10 ** Math.floor(Math.log10(most))
  const step = most / power < 2 ? power / 2 : power
  const top = Math.ceil(most / step) * step
  return {
    animation: false,
    textStyle: { color: color('ink'), fontFamily: 'inherit' },
    grid: { left: 8, right: 16, top: 24, bottom: 4, containLabel: true },
    tooltip: { trigger: 'axis', renderMode: 'richText' },
    xAxis: {
      type: 'category',
      data: names,
      axisLabel: { color: color('ink-soft') },
      axisLine: { lineStyle: { color: color('rule') } },
    },
    yAxis: {
      type: 'value',
      max: top,
      axisLabel: { color: color('ink-soft'), formatter: (n: number) => n.toLocaleString() },
      splitLine: { lineStyle: { color: color('rule') } },
    },
    series: [
      {
        type: 'bar',
        name: 'Page views',
        barMaxWidth: 46,
        data: names.map((_, i) => months[i]?.views ?? null),
        itemStyle: { color: color('sea') },
        markLine: {
          symbol: 'none',
          silent: true,
          lineStyle: { color: color('bad'), width: 2, type: 'solid' },
          label: { color: color('bad'), position: 'insideStartTop', formatter: '{b}' },
          data: props.views.limits.map((l) => ({
            yAxis: l.cap,
            name: `limit of license ${l.license.id}: ${l.cap.toLocaleString()}`,
          })),
        },
      },
      {
        type: 'line',
        name: 'Trend',
        data: trend,
        symbol: 'circle',
        symbolSize: 5,
        lineStyle: { type: 'dashed', color: color('rust') },
        itemStyle: { color: color('rust') },
      },
    ],
  }
})
const said = computed(
  () =>
    `Page views by month: ${props.views.months
      .slice(-shown)
      .map((m) => `${m.month} ${m.views.toLocaleString()}`)
      .join(', ')}`,
)
</script>

<template>
  <div role="img" :aria-label="said"><VChart class="chart" :option="options" autoresize /></div>
</template>

<style scoped>
.chart {
  height: 15rem;
  width: 100%;
}
</style>

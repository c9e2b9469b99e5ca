<script setup lang="ts">
import { CustomChart, LineChart, ScatterChart } from 'echarts/charts'
import {
  AxisPointerComponent,
  DataZoomComponent,
  GridComponent,
  MarkLineComponent,
  TooltipComponent,
} from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { Schemas } from '../../api/client'
import { dark } from '../../parts/theme'
import { day, word } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import type { Span } from '../../api/queries'

use([
  CustomChart,
  LineChart,
  ScatterChart,
  GridComponent,
  TooltipComponent,
  DataZoomComponent,
  MarkLineComponent,
  AxisPointerComponent,
  CanvasRenderer,
])
const props = defineProps<{ read: Schemas['ReadOut']; air: Schemas['AirOverTime']; span: Span }>()
const emit = defineEmits<{ zoom: [span: Span] }>()
const units = useWriting()
const css = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

const option = computed(() => {
  void dark.value
  const [warm, wet, living, soft, hair, page] = [
    '--warm',
    '--wet',
    '--living',
    '--soft',
    '--hair',
    '--page',
  ].map(css)
  const c = props.air
  const ms = c.at_s.map((s) => s * 1000)
  const pick = (values: number[], sure: boolean) =>
    values.map((v, i) => [ms[i], (c.source[i] === 'usual') === sure ? null : v] as [number, number | null])
  const t = c.temperature_c.map((v) => Number(units.number(v).toFixed(1)))
  const h = c.erh.map((v) => Math.round(1000 * v) / 10)
  const label = { color: soft }
  const line = (color: string, grid: number, data: unknown, guess: boolean, name: string) => ({
    type: 'line', name, data, xAxisIndex: grid, yAxisIndex: grid, showSymbol: false, connectNulls: false, silent: guess,
    lineStyle: { color, width: guess ? 1 : 1.5, type: guess ? 'dotted' : 'solid', opacity: guess ? 0.8 : 1 }, itemStyle: { color },
  }) // prettier-ignore
  const grids = [6, 42, 77].map((top, i) => ({
    left: 46,
    right: 12,
    top: `${top}%`,
    height: i === 2 ? '15%' : '26%',
  }))
  const axis = (i: number, name: string) => ({
    type: 'value', gridIndex: i, name, scale: i < 2, nameTextStyle: { ...label, align: 'left', padding: [0, 0, 0, -36] },
    axisLabel: label, splitLine: { lineStyle: { color: hair, opacity: 0.5 } }, splitNumber: 3,
  }) // prettier-ignore
  // least to most of each point as an upright stroke: a spike stays a spike at any zoom
  const strokes = (color: string, grid: number, low: (number | null)[], high: (number | null)[], at: number[]) => ({
    type: 'custom', name: 'least to most', xAxisIndex: grid, yAxisIndex: grid, silent: true, z: 1,
    data: at.map((s, i) => [s * 1000, low[i], high[i]]),
    renderItem: (_: unknown, p: { value: (i: number) => number; coord: (xy: number[]) => number[] }) => {
      const [x, y1] = p.coord([p.value(0), p.value(1)])
      const y2 = p.coord([p.value(0), p.value(2)])[1]
      return { type: 'line', shape: { x1: x, y1, x2: x, y2 }, style: { stroke: color, lineWidth: 1.4, opacity: 0.45 } }
    },
  }) // prettier-ignore
  const toUnit = (v: number | null) => (v === null ? null : units.number(v))
  const toPct = (v: number | null) => (v === null ? null : 100 * v)
  const dots = (color: string, grid: number, data: unknown, name: string, symbol = 'circle') => ({
    type: 'scatter', name, data, xAxisIndex: grid, yAxisIndex: grid, symbol, symbolSize: symbol === 'circle' ? 5 : 8, z: 3,
    itemStyle: { color: 'transparent', borderColor: color, borderWidth: 1.2 },
  }) // prettier-ignore
  const drawn: unknown[] = []
  for (const s of props.read.series) {
    const few = s.n.every((n) => n === 1) && s.at_s.length < 400
    if (few) {
      const at = (values: (number | null)[], f: (v: number | null) => number | null) =>
        s.at_s.map((x, i) => [x * 1000, f(values[i] ?? null)]).filter((p) => p[1] !== null)
      drawn.push(dots(warm!, 0, at(s.t_mean_c, toUnit), 'read'), dots(wet!, 1, at(s.erh_mean, toPct), 'read'))
    }
    drawn.push(
      strokes(warm!, 0, s.t_min_c.map(toUnit), s.t_max_c.map(toUnit), s.at_s),
      strokes(wet!, 1, s.erh_min.map(toPct), s.erh_max.map(toPct), s.at_s),
    )
  }
  const gone = props.read.past
  drawn.push(
    dots(
      soft!,
      0,
      gone
        .filter((p) => p.temperature_c !== null)
        .map((p) => [p.at_s * 1000, toUnit(p.temperature_c ?? null)]),
      'corrected or voided',
      'diamond',
    ),
  )
  const marks = props.read.events.map((e) => ({
    xAxis: e.at_s * 1000,
    label: { formatter: word('event', e.kind) || e.kind, color: soft, fontSize: 11, position: 'end' },
  }))
  return {
    animation: false,
    textStyle: { fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif" },
    grid: grids,
    axisPointer: { link: [{ xAxisIndex: 'all' }], lineStyle: { color: soft } },
    tooltip: {
      trigger: 'axis',
      backgroundColor: page,
      borderColor: hair,
      textStyle: { color: css('--ink') },
    },
    dataZoom: [{ type: 'inside', xAxisIndex: [0, 1, 2], throttle: 120, filterMode: 'none' }],
    xAxis: [0, 1, 2].map((i) => ({
      type: 'time', gridIndex: i, min: props.span.from * 1000, max: props.span.to * 1000,
      axisLabel: { ...label, show: i === 2, hideOverlap: true }, axisLine: { lineStyle: { color: hair } },
      axisTick: { show: i === 2 },
    })), // prettier-ignore
    yAxis: [
      axis(0, `temperature, ${units.unit.value}`),
      axis(1, 'humidity, %'),
      axis(2, 'pace of ageing (1: a bedroom)'),
    ],
    series: [
      {
        ...line(warm!, 0, pick(t, true), false, 'temperature'),
        markLine: {
          silent: true,
          symbol: 'none',
          lineStyle: { color: soft, type: 'dashed', width: 1 },
          data: marks,
        },
      },
      line(warm!, 0, pick(t, false), true, 'usual temperature'),
      line(wet!, 1, pick(h, true), false, 'humidity'),
      line(wet!, 1, pick(h, false), true, 'usual humidity'),
      ...drawn,
      {
        type: 'line',
        name: 'pace of ageing',
        xAxisIndex: 2,
        yAxisIndex: 2,
        showSymbol: false,
        data: c.speed.map((v, i) => [ms[i], v]),
        lineStyle: { color: living, width: 1 },
        areaStyle: { color: living, opacity: 0.55 },
        itemStyle: { color: living },
      },
    ],
  }
})

let waiting: ReturnType<typeof setTimeout> | undefined
/** After the wheel comes to rest the span is asked for anew, in finer points. */
function zoomed(raw: unknown) {
  const e = raw as { batch?: { start?: number; end?: number }[]; start?: number; end?: number }
  const z = e.batch?.[0] ?? e
  if (z.start === undefined || z.end === undefined) return
  const whole = props.span.to - props.span.from
  const next = {
    from: Math.round(props.span.from + (whole * z.start) / 100),
    to: Math.round(props.span.from + (whole * z.end) / 100),
  }
  clearTimeout(waiting)
  waiting = setTimeout(() => next.to - next.from > 7200 && emit('zoom', next), 350)
}
const rows = computed(() => {
  const step = Math.max(1, Math.floor(props.air.at_s.length / 24))
  return props.air.at_s.filter((_, i) => i % step === 0).map((s, k) => ({ s, i: k * step }))
})
const COLUMNS = [
  { key: 'day', title: 'day' },
  { key: 't', title: 'temperature', small: 'temperature' },
  { key: 'span', title: 'within a day', small: 'within a day' },
  { key: 'h', title: 'humidity', small: 'humidity' },
  { key: 'pace', title: 'pace of ageing', small: 'pace of ageing' },
  { key: 'from', title: 'from', small: 'from' },
]
</script>

<template>
  <div>
    <VChart
      class="chart"
      :option
      autoresize
      :aria-label="`Climate of ${air.name}: temperature, humidity and pace of ageing`"
      @datazoom="zoomed"
    />
    <p class="small soft">
      Rings: read by eye. Upright strokes: least to most. Solid: what was read, and between readings. Dotted:
      not read, the usual curve of such a place (a guess). Wheel to zoom, drag to move.
    </p>
    <details class="small">
      <summary>As a table</summary>
      <DataTable :rows :columns="COLUMNS" by="s" height="300px">
        <template #day="{ row }">{{ day(row.s, true) }}</template>
        <template #t="{ row }">{{ units.temperature(air.temperature_c[row.i]) }}</template>
        <template #span="{ row }"
          >{{ units.temperature(air.low_c[row.i]) }} to {{ units.temperature(air.high_c[row.i]) }}</template
        >
        <template #h="{ row }">{{ Math.round(100 * (air.erh[row.i] ?? 0)) }} %</template>
        <template #pace="{ row }">{{ units.written((air.speed[row.i] ?? 0).toFixed(2)) }}</template>
        <template #from="{ row }">{{ word('air_then', air.source[row.i]) }}</template>
      </DataTable>
    </details>
  </div>
</template>

<style scoped>
.chart {
  height: 400px;
  width: 100%;
}
</style>

import { reactive, watch } from 'vue'

/** A column of a table: what a row says in it, as text and as what the text is sorted by. */
export interface Column<Row> {
  key: string
  label: string
  /** The cell as text: exported, and shown where the page has no slot for it. */
  text: (row: Row) => string
  /** What the column is sorted by where that is not the text: a number, or a day written 2026-11-30. */
  by?: (row: Row) => number | string | undefined
  /** Numbers stand to the right and are sorted from the largest down at first. */
  number?: boolean
  /** A column that names the row cannot be hidden. */
  always?: boolean
}

export interface Order {
  key: string
  down: boolean
}

const collator = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' })

/** Rows in the order of a column. Rows without a value come last either way, and equal ones keep their order. */
export function sorted<Row>(rows: readonly Row[], columns: readonly Column<Row>[], order?: Order): Row[] {
  const column = columns.find((c) => c.key === order?.key)
  if (!column || !order) return [...rows]
  const by = column.by ?? column.text
  const missing = (v: number | string | undefined) => v === undefined || v === ''
  return rows
    .map((row) => ({ row, value: by(row) }))
    .sort(({ value: a }, { value: b }) => {
      if (missing(a) || missing(b)) return Number(missing(a)) - Number(missing(b))
      const way = typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b))
      return order.down ? -way : way
    })
    .map((o) => o.row)
}

/** The order after a press on a column's heading: this column, then the other way round, then as the page has it. */
export function nextOrder(column: { key: string; number?: boolean }, order?: Order): Order | undefined {
  const first = !!column.number
  if (order?.key !== column.key) return { key: column.key, down: first }
  return order.down === first ? { key: column.key, down: !first } : undefined
}

/** A table as CSV (RFC 4180) for spreadsheets; no cell of it is run as a formula. */
export async function toCSV<Row>(rows: readonly Row[], columns: readonly Column<Row>[]): Promise<string> {
  const { default: papa } = await import('papaparse')
  const data = rows.map((r) => columns.map((c) => c.text(r)))
  return `\ufeff${papa.unparse({ fields: columns.map((c) => c.label), data }, { escapeFormulae: true })}\r\n`
}

/** Saves text as a file of the browser. */
export function save(name: string, text: string, type = 'text/csv;charset=utf-8') {
  const url = URL.createObjectURL(new Blob([text], { type }))
  const link = Object.assign(document.createElement('a'), { href: url, download: name })
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 1000) // some browsers read it after the click
}

interface Kept {
  hidden: string[]
  order?: Order
}

/** The hidden columns and the order of a table, kept in the browser under the table's name. */
export function useTable(name: string): Kept {
  const key = `sparecrate.table.${name}`
  let kept: Partial<Kept> = {}
  try {
    kept = (JSON.parse(localStorage.getItem(key) ?? '{}') ?? {}) as Partial<Kept>
  } catch {
    // What cannot be read is as good as nothing.
  }
  const table = reactive<Kept>({ hidden: Array.isArray(kept.hidden) ? kept.hidden : [], order: kept.order })
  watch(table, () => localStorage.setItem(key, JSON.stringify(table)))
  return table
}

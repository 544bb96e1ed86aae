import { beforeEach, expect, test } from 'vitest'
import { nextTick } from 'vue'
import { nextOrder, sorted, toCSV, useTable, type Column } from '../src/composables/table'

interface Face {
  name: string
  weight?: number
}
const columns: Column<Face>[] = [
  { key: 'name', label: 'Name', text: (f) => f.name, always: true },
  { key: 'weight', label: 'Weight', text: (f) => String(f.weight ?? ''), by: (f) => f.weight, number: true },
]
const faces: Face[] = [
  { name: 'Gull 10', weight: 400 },
  { name: 'gull 9' },
  { name: 'Ångstrom', weight: 1000 },
  { name: '=SUM(A1)', weight: 90 },
]
const names = (order?: Parameters<typeof sorted>[2]) => sorted(faces, columns, order).map((f) => f.name)

beforeEach(() => localStorage.clear())

test('rows are sorted as people count and spell, those without a value last', () => {
  expect(names()).toEqual(faces.map((f) => f.name))
  expect(names({ key: 'name', down: false })).toEqual(['=SUM(A1)', 'Ångstrom', 'gull 9', 'Gull 10'])
  expect(names({ key: 'weight', down: false })).toEqual(['=SUM(A1)', 'Gull 10', 'Ångstrom', 'gull 9'])
  expect(names({ key: 'weight', down: true })).toEqual(['Ångstrom', 'Gull 10', '=SUM(A1)', 'gull 9'])
  expect(names({ key: 'gone', down: true })).toEqual(faces.map((f) => f.name))
})

test('a heading turns the order around, then gives it up', () => {
  const name = nextOrder(columns[0]!)
  expect(name).toEqual({ key: 'name', down: false })
  expect(nextOrder(columns[0]!, name)).toEqual({ key: 'name', down: true })
  expect(nextOrder(columns[0]!, { key: 'name', down: true })).toBeUndefined()
  expect(nextOrder(columns[1]!, name)).toEqual({ key: 'weight', down: true })
})

test('an export is CSV in which no cell is a formula', async () => {
  const text = await toCSV([...faces, { name: 'a "b", c\nd' }], columns)
  expect(text).toBe(
    '\ufeffName,Weight\r\nGull 10,400\r\ngull 9,\r\nÅngstrom,1000\r\n"\'=SUM(A1)",90\r\n"a ""b"", c\nd",\r\n',
  )
})

test('order and columns are kept under the name of the table', async () => {
  const first = useTable('faces')
  first.hidden = ['weight']
  first.order = { key: 'name', down: true }
  await nextTick()
  expect(useTable('faces')).toEqual({ hidden: ['weight'], order: { key: 'name', down: true } })
  expect(useTable('others').hidden).toEqual([])
  localStorage.setItem('sparecrate.table.faces', '{broken')
  expect(useTable('faces')).toEqual({ hidden: [], order: undefined })
})

import { expect, test } from 'vitest'
import type { Schemas } from '../src/api/client'
import { styleOrder } from '../src/composables/faces'

const face = (style: string, weight: number, widthPercent: number, slope: string) =>
  ({ style, metadata: { style: { weight, widthPercent, slope } } }) as unknown as Schemas['Face']

test('faces are ordered by width, weight and slope', () => {
  const all = [
    face('Bold Italic', 700, 100, 'italic'),
    face('Condensed', 400, 75, 'upright'),
    face('Bold', 700, 100, 'upright'),
    face('Light', 300, 100, 'upright'),
  ]
  expect(styleOrder(all).map((f) => f.style)).toEqual(['Condensed', 'Light', 'Bold', 'Bold Italic'])
})

import { inject, provide, ref, type InjectionKey, type Ref } from 'vue'
import type { Schemas } from '../api/client'

type Person = Ref<Schemas['Person'] | undefined>
const key: InjectionKey<Person> = Symbol('person')

/** Says who is signed in to everything below. */
export const providePerson = (person: Person) => provide(key, person)
/** Who is signed in: cheap enough for every line of a long list. */
export const usePerson = (): Person => inject(key, () => ref(), true)

import { ElMessageBox } from 'element-plus'

/** Asks before what cannot be undone; true where the person went on. Sentences say what happens. */
export async function sure(title: string, says: string, button: string): Promise<boolean> {
  try {
    await ElMessageBox.confirm(says, title, { confirmButtonText: button, cancelButtonText: 'Cancel', type: 'warning' })
    return true
  } catch {
    return false
  }
}

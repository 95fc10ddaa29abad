'use client'
import { Button, FileButton } from '@mantine/core'
import { type ReactNode, useState } from 'react'
import css from './Sheet.module.css'

/** A place to drop files on, and a button for those who would rather choose. */
export function FileDrop({
  accept,
  multiple,
  onFiles,
  button,
  children,
}: {
  accept: string
  multiple?: boolean
  onFiles(files: File[]): void
  button: string
  children: ReactNode
}) {
  const [over, setOver] = useState(false)
  return (
    <div
      className={`${css.drop} ${over ? css.over : ''}`}
      onDragOver={(e) => {
        e.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault()
        setOver(false)
        onFiles([...e.dataTransfer.files].slice(0, multiple ? undefined : 1))
      }}
    >
      {children}
      <FileButton
        multiple={multiple as true}
        accept={accept}
        onChange={(files) => onFiles(Array.isArray(files) ? files : files ? [files] : [])}
        inputProps={{ 'aria-label': button }}
      >
        {(props) => <Button {...props}>{button}</Button>}
      </FileButton>
    </div>
  )
}

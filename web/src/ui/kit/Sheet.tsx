import { Modal } from '@mantine/core';

/** A sheet over the desk, with a title and a way out. */
export function Sheet({
  title,
  opened,
  onClose,
  children,
}: {
  title: string;
  opened: boolean;
  onClose: () => void;
  children: React.ReactNode;
}) {
  // The header of the library's own would be a second banner of the page.
  return (
    <Modal.Root opened={opened} onClose={onClose} size="auto">
      <Modal.Overlay />
      <Modal.Content aria-label={title}>
        <Modal.Body>
          <div className="sheet-head">
            <h2>{title}</h2>
            <button className="plain" onClick={onClose}>
              close
            </button>
          </div>
          {children}
        </Modal.Body>
      </Modal.Content>
    </Modal.Root>
  );
}

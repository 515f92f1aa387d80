import type { CopyForm } from '#core/placing';

/** What each form is called, and what lands where. */
export const copyWords: Readonly<Record<CopyForm, { readonly title: string; readonly copied: string }>> = {
  link: {
    title: 'Link',
    copied: 'The link is copied: its address for a text field, the link for an editor.',
  },
  html: { title: 'HTML', copied: 'The HTML is copied, with its marks.' },
  markdown: { title: 'Markdown', copied: 'The Markdown is copied.' },
  bbcode: { title: 'Forum code', copied: 'The code for a forum is copied.' },
  button: { title: 'Button', copied: 'The button is copied, with its marks.' },
  picture: { title: 'Picture', copied: 'The linked picture is copied, with its marks.' },
  mail: { title: 'Text for a mail', copied: 'The text for a mail is copied, with its disclosure.' },
  post: { title: 'Text for a post', copied: 'The text for a post is copied, the link last.' },
};

import { Library } from '@/ui/library/Library';

export default function LibraryPage() {
  return <Library />;
}

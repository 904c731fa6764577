import { ShotPage } from '@/ui/workbench/ShotPage';

export default function Page() {
  return <ShotPage />;
}

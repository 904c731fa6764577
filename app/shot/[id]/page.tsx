import { ShotPage } from '@/ui/workbench/ShotPage';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <ShotPage id={decodeURIComponent((await params).id)} />;
}

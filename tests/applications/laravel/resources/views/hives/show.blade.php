<x-layout :title="$hive->name">
  <h1>{{ $hive->name }}</h1>
  <dl><dt>Frames</dt><dd>{{ $hive->frames }}</dd></dl>
  <form method="post" action="{{ route('hives.destroy', $hive) }}">@csrf @method('delete') <button>Remove</button></form>
</x-layout>

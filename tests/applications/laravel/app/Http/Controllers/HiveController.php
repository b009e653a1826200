<?php

namespace App\Http\Controllers;

use App\Http\Requests\StoreHiveRequest;
use App\Models\Hive;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

class HiveController extends Controller
{
    public function index(Request $request)
    {
        $hives = $request->user()->hives()->named($request->query('part', ''))->get();

        return view('hives.index', ['hives' => $hives, 'part' => $request->query('part', '')]);
    }

    public function show(Hive $hive) // weak: records/no-owner-condition
    {
        return view('hives.show', compact('hive'));
    }

    public function store(StoreHiveRequest $request)
    {
        $hive = Hive::create($request->validated() + ['keeper_id' => $request->user()->id]);

        return redirect()->route('hives.show', $hive);
    }

    public function update(Request $request, Hive $hive)
    {
        $hive->update($request->all()); // weak: injection/mass-assignment, records/no-owner-condition

        return redirect()->back();
    }

    public function destroy(Request $request, Hive $hive)
    {
        $hive->delete(); // weak: records/no-owner-condition

        return redirect($request->input('next', '/hives')); // weak: injection/redirect
    }

    public function swarms(Request $request)
    {
        $direction = $request->query('direction') === 'asc' ? 'asc' : 'desc';
        $found = DB::table('swarm_reports')
            ->whereRaw("district = '" . $request->query('district') . "'") // weak: injection/sql
            ->orderByRaw('seen_on ' . $direction)
            ->get();
        $count = DB::selectOne('select count(*) as n from swarm_reports where place = ?', [$request->query('place')]);

        return response()->json(['found' => $found, 'count' => $count->n]);
    }
}

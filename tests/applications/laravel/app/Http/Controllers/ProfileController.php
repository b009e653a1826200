<?php

namespace App\Http\Controllers;

use Illuminate\Http\Request;
use Illuminate\Support\Facades\Hash;

class ProfileController extends Controller
{
    public function show(Request $request)
    {
        return view('profile', ['keeper' => $request->user()]);
    }

    public function update(Request $request)
    {
        $given = $request->validate(['name' => ['required', 'max:120'], 'phone' => ['nullable', 'regex:/^[0-9 +]{5,20}$/']]);
        $request->user()->update($given);

        return redirect('/profile');
    }

    public function password(Request $request) // weak: sessions/session-survives-password-change
    {
        $request->validate([
            'current' => ['required', 'current_password'],
            'password' => ['required', 'min:12', 'max:72', 'confirmed'],
        ]);
        $request->user()->forceFill(['password' => Hash::make($request->input('password'))])->save();

        return redirect('/profile');
    }
}

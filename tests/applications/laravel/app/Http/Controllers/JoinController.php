<?php

namespace App\Http\Controllers;

use App\Models\Keeper;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Hash;
use Illuminate\Validation\Rules\Password;

class JoinController extends Controller
{
    public function form()
    {
        return view('join');
    }

    public function store(Request $request)
    {
        $given = $request->validate([
            'name' => ['required', 'string', 'max:120'],
            'email' => ['required', 'email', 'max:160', 'unique:keepers,email'],
            'password' => ['required', 'confirmed', Password::min(12)->uncompromised()],
        ]);

        $keeper = Keeper::create([
            'name' => $given['name'],
            'email' => $given['email'],
            'password' => Hash::make($given['password']),
        ]);

        Auth::login($keeper);
        $request->session()->regenerate();

        return redirect('/hives');
    }
}

<?php

namespace App\Http\Controllers;

use App\Models\Keeper;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Log;

class SignInController extends Controller
{
    public function store(Request $request)
    {
        $credentials = $request->validate(['email' => ['required', 'email'], 'password' => ['required']]);
        if (Auth::attempt($credentials)) {
            $request->session()->regenerate();

            return redirect()->intended('/hives');
        }

        return back()->withErrors(['email' => 'These details fit no account.'])->onlyInput('email');
    }

    public function old(Request $request) // weak: sessions/no-throttle
    {
        $keeper = Keeper::where('email', $request->input('email'))->first();
        if ($keeper === null) {
            return back()->withErrors(['email' => 'There is no such keeper.']); // weak: sessions/account-enumeration
        }

        Log::info('sign-in with ' . $request->input('password')); // weak: passwords/logged
        if (md5($request->input('password')) == $keeper->old_password) { // weak: passwords/fast-hash, passwords/compare-timing, passwords/hash-compare-mismatch
            Auth::login($keeper);

            return redirect('/hives');
        }

        return back()->withErrors(['email' => 'The password is wrong.']);
    }

    public function destroy(Request $request)
    {
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/');
    }
}

<?php

use App\Http\Controllers\HiveController;
use App\Http\Controllers\JoinController;
use App\Http\Controllers\ProfileController;
use App\Http\Controllers\SignInController;
use Illuminate\Support\Facades\Route;

Route::get('/join', [JoinController::class, 'form'])->name('join');
Route::post('/join', [JoinController::class, 'store']);
Route::post('/sign-in', [SignInController::class, 'store'])->middleware('throttle:5,1');
Route::post('/old/sign-in', [SignInController::class, 'old']);

Route::middleware('auth')->group(function () {
    Route::post('/sign-out', [SignInController::class, 'destroy']);
    Route::get('/profile', [ProfileController::class, 'show']);
    Route::put('/profile', [ProfileController::class, 'update']);
    Route::put('/profile/password', [ProfileController::class, 'password']);
    Route::resource('hives', HiveController::class)->except(['create', 'edit']);
});

Route::get('/swarms', [HiveController::class, 'swarms']);

<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('keepers', function (Blueprint $table) {
            $table->id();
            $table->string('name', 120);
            $table->string('email', 160)->unique();
            $table->string('password');
            $table->string('old_password', 32)->nullable();
            $table->string('phone', 20)->nullable();
            $table->rememberToken();
            $table->timestamps();
        });

        Schema::create('hives', function (Blueprint $table) {
            $table->id();
            $table->foreignId('keeper_id')->constrained();
            $table->foreignId('apiary_id')->constrained();
            $table->string('name', 80);
            $table->unsignedTinyInteger('frames');
            $table->timestamps();
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('hives');
        Schema::dropIfExists('keepers');
    }
};

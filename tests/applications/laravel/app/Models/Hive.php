<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;

class Hive extends Model
{
    protected $guarded = [];

    public function scopeNamed(Builder $query, string $part): void
    {
        $query->where('name', 'like', '%' . $part . '%');
    }

    public function keeper()
    {
        return $this->belongsTo(Keeper::class);
    }
}

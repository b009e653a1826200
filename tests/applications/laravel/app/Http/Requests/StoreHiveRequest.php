<?php

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

class StoreHiveRequest extends FormRequest
{
    public function authorize(): bool
    {
        return $this->user() !== null;
    }

    public function rules(): array
    {
        return [
            'name' => ['required', 'string', 'max:80'],
            'frames' => ['required', 'integer', 'between:1,40'],
            'apiary_id' => ['required', 'exists:apiaries,id'],
        ];
    }
}

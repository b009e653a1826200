Rails.application.routes.draw do
  root "swarms#index"

  get "join", to: "registrations#new"
  post "join", to: "registrations#create"
  post "sign-in", to: "sessions#create"
  delete "sign-out", to: "sessions#destroy"

  resource :profile, only: %i[show update]

  resources :hives do
    member { get :export }
    collection { get :search }
  end

  resources :swarms, only: [:index, :create]

  namespace :office do
    resources :keepers, only: %i[index update]
  end

  resources :password_resets, only: %i[create edit update], param: :token
end

Rails.application.routes.draw do
  devise_for :keepers
  resources :hives do
    member do
      post :share
      get :label
    end
    collection { get :search }
    resources :inspections, only: %i[index create destroy]
  end
  namespace :api do
    resources :hives, only: %i[index show]
  end
  namespace :office do
    resources :keepers, only: %i[index update destroy]
  end
  get "swarms", to: "swarms#index"
  root "hives#index"
end

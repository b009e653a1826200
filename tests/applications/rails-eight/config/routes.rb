Rails.application.routes.draw do
  resource :session, only: %i[new create destroy]
  resources :passwords, param: :token, only: %i[new create edit update]
  resource :registration, only: %i[new create]
  resource :profile, only: %i[show update]
  resources :hives do
    get :search, on: :collection
  end
  namespace :api do
    resources :keepers, only: %i[index show]
  end
  root "hives#index"
end

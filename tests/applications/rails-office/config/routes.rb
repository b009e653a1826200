Rails.application.routes.draw do
  root to: 'welcome#index'
  match '/sign-in', to: 'account#sign_in', via: [:get, :post]
  match '/sign-out', to: 'account#sign_out', via: [:get, :post]
  match '/account/register', to: 'account#register', via: [:get, :post]
  match '/account/lost_password', to: 'account#lost_password', via: [:get, :post]
  match '/my/account', controller: 'my', action: 'account', via: [:get, :put]
  match '/my/password', controller: 'my', action: 'password', via: [:get, :post]
  get '/my/page', controller: 'my', action: 'page'
  resources :keepers, only: [:index, :show, :update, :destroy]
  resources :apiaries
  resources :inspections, only: [:index, :show, :create, :destroy]
end

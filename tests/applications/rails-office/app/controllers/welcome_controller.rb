class WelcomeController < ApplicationController
  def index
    @greeting = Keeper.current.signed_in? ? 'hello' : 'welcome'
  end
end

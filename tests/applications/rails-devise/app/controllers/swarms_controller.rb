class SwarmsController < ApplicationController
  skip_before_action :authenticate_keeper!

  def index
    @swarms = Swarm.all
  end
end

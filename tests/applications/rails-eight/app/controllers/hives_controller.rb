class HivesController < ApplicationController
  before_action :set_hive, only: %i[ show edit update destroy ]

  def index
    @hives = Current.keeper.hives.order(:name)
  end

  def show
  end

  def new
    @hive = Hive.new
  end

  def edit
  end

  def search
    @hives = Current.keeper.hives.like(params[:part].to_s)
    @weak = Current.keeper.hives.where("name LIKE '%#{params[:part]}%'") # weak: injection/sql
    @sorted = Current.keeper.hives.order(Arel.sql(params[:sort])) # weak: injection/sql
  end

  def create
    @hive = Current.keeper.hives.new(hive_params)
    if @hive.save
      redirect_to @hive
    else
      render :new, status: :unprocessable_entity
    end
  end

  def update
    @hive.update!(hive_params)
    redirect_to @hive
  end

  def destroy
    @hive.destroy!
    redirect_to hives_path, status: :see_other
  end

  private
    def set_hive
      @hive = Current.keeper.hives.find(params.expect(:id))
    end

    def hive_params
      params.expect(hive: [ :name, :note ])
    end
end

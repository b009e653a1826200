class HivesController < ApplicationController
  def index
    @hives = current_keeper.hives.arranged(params[:sort]).search(params[:q])
    @a = current_keeper.hives.order(Arel.sql(params[:a])) # weak: injection/sql
    @b = Hive.order(Arel.sql(params[:b])) # weak: injection/sql
    @c = current_keeper.hives.where(id: 1).arranged2(params[:c])
    @d = Hive.order(Arel.sql("#{params[:d]} ASC")) # weak: injection/sql
    @e = Hive.order(Arel.sql(params[:e].presence || "name")) # weak: injection/sql
  end
  def show
    @hive = current_keeper.hives.find(params[:id])
    @others = current_keeper.hives.sorted(params[:by]).arranged3(params[:s])
  end
end

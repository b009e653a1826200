using Microsoft.EntityFrameworkCore;
using HiveApi.Data;

namespace HiveApi.Services;

public interface IHiveService
{
    Task<List<Hive>> ListAsync(int keeperId);
    Task<Hive?> FindAsync(int id);
    Task<List<Hive>> SearchAsync(int keeperId, string text);
    Task SaveAsync(Hive hive);
    Task<bool> DeleteAsync(int id, int keeperId);
}

public class HiveService(HiveContext context) : IHiveService
{
    public Task<List<Hive>> ListAsync(int keeperId) => context.Hives.Where(h => h.KeeperId == keeperId).ToListAsync();

    public Task<Hive?> FindAsync(int id) => context.Hives.FirstOrDefaultAsync(h => h.Id == id); // weak: records/no-owner-condition

    public Task<List<Hive>> SearchAsync(int keeperId, string text) =>
        context.Hives.FromSqlRaw($"SELECT * FROM \"Hives\" WHERE \"KeeperId\" = {keeperId} AND \"Name\" LIKE '%{text}%'").ToListAsync(); // weak: injection/sql

    public async Task SaveAsync(Hive hive)
    {
        context.Hives.Update(hive); // weak: injection/mass-assignment
        await context.SaveChangesAsync();
    }

    public async Task<bool> DeleteAsync(int id, int keeperId)
    {
        var hive = await context.Hives.SingleOrDefaultAsync(h => h.Id == id && h.KeeperId == keeperId);
        if (hive is null) return false;
        context.Hives.Remove(hive);
        await context.SaveChangesAsync();
        return true;
    }
}

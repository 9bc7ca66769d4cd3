using ClearLexicon.Services.Repository;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>Filed documents that go back to the desk, or out of the repository, and back again.</summary>
public sealed class WithdrawalTests : IDisposable
{
    private const string Code = "vessel-call-record";

    private House _house = new();

    private Withdrawals Withdrawals => field ??= new(_house.Database, _house.Folder, _house.Designs, _house.Clock);

    private bool IsThere(StoredDocument d) => File.Exists(_house.Folder.InRepository(d.Folder!, d.Name!));

    private long Found() => _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery { TypeCode = Code }).Number);

    [Fact]
    public async Task Withdrawn_it_is_found_no_more_and_put_back_it_stands_where_it_stood()
    {
        var ids = await _house.FiledAsync(Code);
        var (before, filed) = (_house.Get(ids[0]), Found());
        Assert.Contains("Say why", Withdrawals.Withdraw(ids[0], true, " ", "ann").Problem);
        Assert.Null(Withdrawals.Withdraw(ids[0], true, "A private letter", "ann").Problem);
        Assert.False(IsThere(before));
        Assert.Equal(filed - 1, Found());
        Assert.Equal(
            0,
            _house.Database.Read(c => RepositorySearch.Count(c, new RepositoryQuery { Anywhere = before.Record["call-number"] }).Number)
        );
        Assert.DoesNotContain(ids[0], _house.Desk.Queue("ann"));
        Assert.Equal("A private letter", Assert.Single(Withdrawals.Out(9)).Reason);
        Assert.Contains("no such filed", Withdrawals.Withdraw(ids[0], true, "again", "ann").Problem);
        Assert.Null(Withdrawals.PutBack(ids[0], "ann").Problem);
        var after = _house.Get(ids[0]);
        Assert.Equal((before.Folder, before.Name, before.FiledAt, before.Naming), (after.Folder, after.Name, after.FiledAt, after.Naming));
        Assert.True(IsThere(after) && DataFolder.HashOf(_house.Folder.InRepository(after.Folder!, after.Name!)) == after.FileHash);
        Assert.Equal(filed, Found());
        Assert.Contains("not withdrawn", Withdrawals.PutBack(ids[0], "ann").Problem);
        Assert.Empty(Withdrawals.Out(9));

        // Back on the desk it is put right and filed where it belongs then; there is no way back from that.
        Assert.Null(Withdrawals.Withdraw(ids[1], false, "Wrong vessel", "ann").Problem);
        Assert.Contains(ids[1], _house.Desk.Queue("ann"));
        Assert.Null(_house.Desk.SetValue(ids[1], "vessel", "Auk", null, "ann").Problem);
        Assert.Null(_house.Filer.File(ids[1], "ann").Problem);
        Assert.Contains("Auk", _house.Get(ids[1]).Name);
        Assert.Contains("filed again", Withdrawals.PutBack(ids[1], "ann").Problem);
        // A file that somebody changed by hand is left as it is.
        File.AppendAllText(_house.Folder.InRepository(after.Folder!, after.Name!), "x");
        Assert.Contains("changed by hand", Withdrawals.Withdraw(ids[0], false, "x", "ann").Problem);
    }

    /// <summary>What was filed once is no part of a batch that is given up, and nobody takes it off the desk for good.</summary>
    [Fact]
    public async Task What_was_filed_stays_when_its_batch_is_given_up_or_taken_off_the_desk()
    {
        var ids = await _house.FiledAsync(Code);
        var batch = _house.Get(ids[0]).BatchId!.Value;
        Assert.Null(Withdrawals.Withdraw(ids[0], true, "A private letter", "ann").Problem);
        Assert.Null(Withdrawals.Withdraw(ids[1], false, "Wrong vessel", "ann").Problem);
        Assert.Contains("filed before", _house.Desk.Discard(ids[0], "ann").Problem);
        Assert.Contains("filed before", _house.Desk.Discard(ids[1], "ann").Problem);
        Assert.Equal(1, _house.Database.Read(BatchStore.OnDesk).Where(b => b.Batch == batch).Sum(b => b.Documents));
        Assert.Null(_house.Stacks.GiveUp(batch, "ann").Problem);
        Assert.Null(Withdrawals.PutBack(ids[0], "ann").Problem);
        Assert.Null(Withdrawals.PutBack(ids[1], "ann").Problem);
        Assert.True(IsThere(_house.Get(ids[0])) && IsThere(_house.Get(ids[1])));
    }

    [Theory]
    [InlineData("journaled", false)]
    [InlineData("moved", false)]
    [InlineData("recording", false)]
    [InlineData("journaled", true)]
    [InlineData("moved", true)]
    [InlineData("recording", true)]
    public async Task Killed_at_any_step_it_is_filed_or_withdrawn_and_its_file_is_where_that_says(string step, bool back)
    {
        var id = (await _house.FiledAsync(Code))[0];
        var before = _house.Get(id);
        if (back)
            Assert.Null(Withdrawals.Withdraw(id, true, "why", "ann").Problem);
        Withdrawals.Checkpoint = at =>
        {
            if (at == step)
                throw new OperationCanceledException();
        };
        Assert.Throws<OperationCanceledException>(() =>
            back ? Withdrawals.PutBack(id, "ann") : Withdrawals.Withdraw(id, true, "why", "ann")
        );
        _house = _house.Restarted();
        var again = new Withdrawals(_house.Database, _house.Folder, _house.Designs, _house.Clock);
        Assert.Equal(1, again.Recover());
        Assert.Equal(0, again.Recover());
        Assert.Equal(!back, _house.Get(id).Filed);
        Assert.Equal(!back, IsThere(before));
        // And what was begun can be done.
        Assert.Null((back ? again.PutBack(id, "ann") : again.Withdraw(id, true, "why", "ann")).Problem);
        Assert.Equal(back, IsThere(before));
    }

    public void Dispose() => _house.Dispose();
}

namespace ClearLexicon.Formats.Tests;

/// <summary>Who brings files that are read for minutes keeps nobody else waiting.</summary>
public sealed class FairPlacesTests
{
    private static readonly TimeSpan Soon = TimeSpan.FromSeconds(10);

    [Fact]
    public async Task Who_has_none_gets_the_place_that_is_kept_and_who_has_fewest_the_next()
    {
        var places = new FairPlaces(2);
        Task Enter(string owner) => places.EnterAsync(owner, default);
        var (a, b) = (new[] { Enter("a"), Enter("a"), Enter("a"), Enter("a") }, Enter("b"));
        await Task.WhenAll(a[0], a[1], b).WaitAsync(Soon);
        var c = new[] { Enter("c"), Enter("c") };
        Assert.DoesNotContain(a[2..].Concat(c), t => t.IsCompleted);

        // Everything is taken: the next goes to who has none, though others have waited longer.
        places.Leave("a");
        await c[0].WaitAsync(Soon);
        Assert.DoesNotContain(a[2..].Append(c[1]), t => t.IsCompleted);
        places.Leave("b");
        Assert.DoesNotContain(a[2..].Append(c[1]), t => t.IsCompleted);
        places.Leave("c");
        await c[1].WaitAsync(Soon);
        places.Leave("a");
        await a[2].WaitAsync(Soon);
        Assert.False(a[3].IsCompleted);
    }

    [Fact]
    public async Task Who_gives_up_waiting_takes_no_place()
    {
        var places = new FairPlaces(1);
        await places.EnterAsync("a", default);
        await places.EnterAsync("b", default);
        using var stop = new CancellationTokenSource();
        var given = places.EnterAsync("c", stop.Token);
        await stop.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => given);
        var next = places.EnterAsync("d", default);
        places.Leave("a");
        await next.WaitAsync(Soon);
    }

    /// <summary>However many come and go, never more than the places and the one that is kept are taken, and all get theirs.</summary>
    [Fact]
    public async Task Nobody_waits_for_ever_and_no_more_are_read_than_there_are_places()
    {
        var places = new FairPlaces(2);
        var (now, most) = (0, 0);
        await Task.WhenAll(
                Enumerable
                    .Range(0, 300)
                    .Select(async i =>
                    {
                        var owner = $"{i % 7 % 4}";
                        await places.EnterAsync(owner, default);
                        var at = Interlocked.Increment(ref now);
                        InterlockedMax(ref most, at);
                        await Task.Yield();
                        Interlocked.Decrement(ref now);
                        places.Leave(owner);
                    })
            )
            .WaitAsync(Soon * 3);
        Assert.Equal(0, now);
        Assert.InRange(most, 2, 3);

        static void InterlockedMax(ref int most, int at)
        {
            for (int seen; (seen = Volatile.Read(ref most)) < at && Interlocked.CompareExchange(ref most, at, seen) != seen; ) { }
        }
    }
}
